// How hard the sentences of the catalogue are to read: Flesch-Kincaid grade level, by the formula of
// Kincaid, Fishburne, Rogers and Chissom, Derivation of New Readability Formulas for Navy Enlisted
// Personnel (1975): 0.39 words/sentences + 11.8 syllables/words - 15.59. It is made for passages:
// of single sentences it says little, so half and nineteen of twenty are held, and what is far off.
import { fleschKincaid } from 'flesch-kincaid'
import { syllable } from 'syllable'
import { messages, words } from './catalogue.mjs'

// What students read: their pages, signing in, their own account, mails to them, and what they are refused for.
const students = [
  /^(signin|home|thing|doc|nothing|password|sessions|wish|trouble|bin)\./,
  /^join\.(ask|stands|students)/,
  /^notice\.(mine|let|mates|back|more|parents)/,
  /^codes\.(made|code)/,
  /^mail\.(given|notice|changed|written|code)-body$/,
  /^problem\.(sign-in|offline|internal|not-there|code-refused|refused|too-often|full|folder-full|no-right|unavailable)$/,
  /^problem\.(written-meanwhile|password-.*|too-many-ask|no-database|busy|uploads-at-once|not-passed-on|more-than-own)$/,
]
// A name, a number and a time are words like others; words of a school's own are ours.
const plain = (text) =>
  text
    .replace(/@:\{'word\.(\w+)'\}/g, (_, w) => words.word[w])
    .replace(/\[[^\]]*\]|\{\w+\}|https?:\S+|\S+@\S+/g, 'Mara')
export function grade(text) {
  const sentences = text.split(/[.?!:;](?:\s|$)|\n\n| · /).filter((s) => /\p{L}/u.test(s))
  const all = text.match(/[\p{L}\p{N}][\p{L}\p{N}’'-]*/gu) ?? []
  return fleschKincaid({
    sentence: sentences.length,
    word: all.length,
    syllable: all.reduce((n, w) => n + Math.max(1, syllable(w)), 0),
  })
}
// A first reader and a report, to see that the grade tells them apart.
const known =
  grade('The cat sat on the mat. The dog ran to the cat.') < 1 &&
  grade('Institutional administrators characteristically underestimate organisational interdependencies.') > 20
const of = { student: [], staff: [] }
for (const [path, value] of messages())
  for (const form of value.split(' | ')) {
    const text = plain(form).trim()
    if ((text.match(/\p{L}+/gu) ?? []).length < 5 || !/[.?!]$/.test(text)) continue // a label, not a sentence
    of[students.some((s) => s.test(path)) ? 'student' : 'staff'].push([grade(text), path, form])
  }
let bad = known ? 0 : 1
if (!known) console.error('the grade is wrong')
// Words of an older or a translated English: docs/words.md says what to write.
const old =
  /\b(anew|otherwise|no more|whoever|whatever|stood|put away|let be|is so|say so|not so|(?:be|is|was) said|lies|lay|hangs?|hung|becomes? of|kept|keep it|somebody|is like that|called so|put up|taken? down|see to it|in its place|do it|as asked|thereby|under way|mend(?:ed)?|stands?(?!-in)|any ?more(?=[.:;,]?$))\b/i
for (const [path, value] of messages()) {
  const found = value.match(old)
  if (!found) continue
  bad++
  console.error(`${path}: “${found[0]}” in ${JSON.stringify(value)}`)
}
for (const [who, most] of [
  ['student', 5],
  ['staff', 8],
]) {
  const all = of[who].sort((a, b) => a[0] - b[0])
  const at = (part) => all[Math.floor((all.length - 1) * part)][0]
  console.log(
    `${who}: ${all.length} texts of sentences, grade ${at(0.5).toFixed(1)} in the middle, ${at(0.95).toFixed(1)} for nineteen of twenty (${most} at most)`,
  )
  const hard = all.filter(([g]) => g > most)
  if (process.argv.includes('--all')) for (const [g, path, text] of hard) console.log(g.toFixed(1), path, text)
  if (at(0.95) > most) {
    bad++
    console.error(`too hard to read for ${who}s; node scripts/readable.mjs --all names them`)
  }
}
process.exit(bad ? 1 : 0)
