import { ref, type Ref } from 'vue'
import { api, data, type Of } from '@/api/client'
import { sentence } from '@/tell'

/** The address is theirs although the school book has another name. */
export const sayTheirs = (classId: string, rowId: string) =>
  data(api.POST('/classes/{classId}/rows/{rowId}/confirm', { params: { path: { classId, rowId } } }))

export const correctAddress = (classId: string, rowId: string, address: string) =>
  api.PUT('/classes/{classId}/rows/{rowId}/address', { params: { path: { classId, rowId } }, body: { address } })

/** Packs whatever one student lacks, stuck or not, and nothing of anybody else. */
export async function packStudent(classId: string, rowId: string) {
  await api.POST('/classes/{classId}/top-up', { params: { path: { classId } }, body: { rows: [rowId] } })
}

/** Corrects an address, or says that it is the student's all the same; what was packed before is packed for them, too. */
export async function mendStudent(classId: string, rowId: string, address: string | null, packed: boolean) {
  await (address === null ? sayTheirs(classId, rowId) : correctAddress(classId, rowId, address))
  if (packed) await packStudent(classId, rowId)
}

/** Mends students on a page; what is refused is at its student. after is done once one was mended. */
export function useMending(classId: Ref<string>, after: () => Promise<unknown>) {
  const problems = ref<Record<string, string>>({})
  async function mend(row: string, address: string | null, packed: boolean) {
    problems.value = { ...problems.value, [row]: '' }
    try {
      await mendStudent(classId.value, row, address, packed)
      await after()
    } catch (e) {
      problems.value = { ...problems.value, [row]: sentence(e) }
    }
  }
  return { problems, mend }
}

/** Where what a note tells of is seen to. */
export function remedyOf(classId: string, n: Of<'Note'>) {
  const at = `/classes/${classId}`
  switch (n.code) {
    case 'students-missing':
      return `${at}?do=top-up`
    case 'changes-waiting':
    case 'movers-asked':
      return `${at}/room`
    case 'list-waits':
      return `${at}/roster`
    case 'leavers-asked':
    case 'satchels-asked':
      return `${at}/roster?panel=leavers`
    case 'handouts-unsent':
      return `${at}/handouts`
    case 'joiners-ask':
      return `${at}/links`
    case 'messages-failed':
      return `${at}/log?view=told`
    case 'doors-differ':
      return `${at}/doors`
    case 'late-texts':
      return `/things/${n.about}`
    case 'due-today':
    case 'due-tomorrow':
      return `${at}/handouts/${n.about}`
  }
  return at
}
