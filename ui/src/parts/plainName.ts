/** A document's name without the ending of our own text documents, as people say it. */
export const plainName = (name: string) => name.replace(/\.md$/, '')
