import '@fontsource-variable/fraunces/full.css'
import '@fontsource-variable/atkinson-hyperlegible-next/index.css'

/** Other scripts: their rules come later, their files only where a name needs them. */
export const otherScripts = () => import('./scripts')
