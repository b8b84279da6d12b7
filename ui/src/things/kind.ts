/** What kind of file a media type is, as people say it: a key of the words. */
export function kindOf(mediaType: string): string {
  const kinds: [RegExp, string][] = [
    [/^text\/(csv|tab)|spreadsheet|excel/, 'sheet'],
    [/wordprocessing|opendocument\.text|msword|rtf/, 'document'],
    [/presentation|powerpoint/, 'slides'],
    [/^application\/pdf/, 'pdf'],
    [/^image\//, 'picture'],
    [/^audio\//, 'sound'],
    [/^video\//, 'film'],
    [/^text\//, 'text'],
  ]
  return kinds.find(([of]) => of.test(mediaType))?.[1] ?? 'file'
}
