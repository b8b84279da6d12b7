// The English words as the interface has them: those of the server's codes, and its own.
import { readFileSync } from 'node:fs'
import ts from 'typescript'

export const here = (path) => new URL(path, import.meta.url)
const catalogue = readFileSync(here('../../internal/core/words/en.json'), 'utf8')
const source = readFileSync(here('../src/words/en.ts'), 'utf8').replace(
  /^import .*$/m,
  `const catalogue = ${catalogue}`,
)
const { outputText } = ts.transpileModule(source, { compilerOptions: { module: 'esnext', target: 'esnext' } })
export const { default: words } = await import(
  `data:text/javascript;base64,${Buffer.from(outputText).toString('base64')}`
)

/** Every message with its path. */
export function* messages(value = words, path = '') {
  if (typeof value === 'string') yield [path.slice(1), value]
  else for (const [key, inner] of Object.entries(value)) yield* messages(inner, `${path}.${key}`)
}
