/**
 * The names under which answers are kept. A part at the end can be left out where all with that
 * beginning are meant: keys.handout(classId) is every answer about the class's handouts.
 */
export type Part = string | number | boolean | object | null | undefined
const key =
  <All extends Part[]>(name: string) =>
  (...of: Some<All>): Part[] => [name, ...of]
type Some<All extends Part[]> = All extends [...infer Start extends Part[], Part] ? All | Some<Start> : All

export const keys = {
  // of a class
  class: key<[classId: string]>('class'),
  register: key<[classId: string]>('register'),
  weeks: key<[classId: string, handout: string]>('weeks'),
  panel: key<[classId: string, row: string]>('panel'),
  missing: key<[classId: string]>('missing'),
  roster: key<[classId: string]>('roster'),
  rosterHistory: key<[classId: string]>('roster-history'),
  draft: key<[classId: string]>('draft'),
  joinDoor: key<[classId: string]>('join-door'),
  placing: key<[classId: string, revision: number]>('placing'),
  leavers: key<[classId: string, revision: number]>('leavers'),
  room: key<[classId: string]>('room'),
  tree: key<[classId: string, eyes: string, under: string, from: number, digest: string]>('tree'),
  leftovers: key<[classId: string, digest: string]>('leftovers'),
  handouts: key<[classId: string, what: 'headings']>('handouts'),
  handout: key<[classId: string, handoutId: string, what: 'reissue' | 'stood' | 'filled', of: Part]>('handout'),
  run: key<[classId: string, runId: string]>('run'),
  pastRuns: key<[classId: string]>('past-runs'),
  links: key<[classId: string, handout: string]>('links'),
  slips: key<[classId: string, handout: string]>('slips'),
  log: key<[classId: string, asked: string, before: Part]>('log'),
  late: key<[thing: string, several: number]>('late'),
  handing: key<[classId: string, asked: object]>('handing'),
  shown: key<[thing: string]>('shown'),
  doors: key<[classId: string]>('doors'),
  doorThings: key<[classId: string, find: string]>('door-things'),
  reach: key<[classId: string, by: 'student' | 'thing', of: string]>('reach'),
  doorChecks: key<[]>('door-checks'),
  reachEverywhere: key<[account: string]>('reach-everywhere'),
  ledger: key<[classId: string, asked: string, from: number]>('ledger'),
  usage: key<[classId: string]>('usage'),
  messages: key<[classId: string, asked: string, of: string, before: Part]>('messages'),
  letter: key<[classId: string, ask: object, text: Part, row: Part]>('letter'),
  eyes: key<[classId: string, row: string, thing: Part]>('eyes'),

  // of an account
  classes: key<[]>('classes'),
  students: key<[asked: string]>('students'),
  allWeeks: key<[]>('all-weeks'),
  everywhere: key<[]>('everywhere'),
  home: key<[what: 'mates', handoutId: string]>('home'),
  templates: key<[]>('templates'),
  bin: key<[]>('bin'),
  folders: key<[folder: Part, find: string]>('folders'),
  sessions: key<[]>('sessions'),
  ownCodes: key<[]>('own-codes'),
  wish: key<[]>('wish'),
  join: key<[link: string]>('join'),

  // of a thing
  thing: key<[id: string, what: 'inside', count: Part]>('thing'),
  versions: key<[id: string, version: number]>('versions'),
  version: key<[id: string, number: Part]>('version'),

  // asked with a question
  choose: key<[asked: Part]>('choose'),
  spread: key<[asked: Part]>('spread'),
  people: key<[asked: string]>('people'),

  // of the school
  school: key<[]>('school'),
  book: key<[asked: object]>('book'),
  allClasses: key<[asked: string, needing: boolean, from: number]>('all-classes'),
  standins: key<[]>('standins'),
  postroom: key<[asked: string, before: Part]>('postroom'),
  mail: key<[number: Part]>('mail'),
}
