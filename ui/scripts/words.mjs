// Compiles every message of the catalogue, in every plural form, as the interface does: one that
// can't be said in one of its forms fails here, and not on the page of whoever has none, one or two.
import { readdirSync, readFileSync } from 'node:fs'
import { baseCompile } from '@intlify/message-compiler'
import { here, messages, words } from './catalogue.mjs'

let bad = 0
let all = 0
for (const [path, value] of messages()) {
  all++
  const say = (why) => {
    bad++
    console.error(`${path}: ${why}: ${JSON.stringify(value)}`)
  }
  const forms = value.split('|')
  if (forms.length > 1 && forms.some((form) => !form.trim())) say('a form is empty')
  if (forms.length > 3) say('more than three forms')
  try {
    baseCompile(value, { onError: (e) => say(e.message), jit: true })
  } catch (e) {
    say(e.message)
  }
}
// Every message that is asked for by its whole name is there.
const sources = readdirSync(here('../src'), { recursive: true }).filter(
  (f) => /\.(vue|ts)$/.test(f) && !f.endsWith('.gen.ts'),
)
for (const file of sources) {
  const text = readFileSync(here(`../src/${file}`), 'utf8')
  // A space that begins an element isn't kept: what follows a sentence there is glued to it.
  for (const [glued] of text.matchAll(/\S<(?:template|span|b|small)\b(?:"[^"]*"|[^">])*> +\{\{[^}]*/g)) {
    bad++
    console.error(`${file}: the space is lost in ${glued}`)
  }
  for (const [, key] of text.matchAll(/\bt\(\s*'([\w-]+(?:\.[\w-]+)+)'/g)) {
    if (typeof key.split('.').reduce((at, part) => at?.[part], words) === 'string') continue
    bad++
    console.error(`${file}: there is no message ${key}`)
  }
}
console.log(`${all} messages, ${bad} that can't be said`)
process.exit(bad ? 1 : 0)
