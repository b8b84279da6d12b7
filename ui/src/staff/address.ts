import { api, data } from '@/api/client'

/** Whether a reason is mended by another address, or by saying whose it is. */
export const aboutAddress = (code = '') => code === 'no-address' || code.startsWith('account-')

/** The address is theirs although the school book has another name. */
export const sayTheirs = (classId: string, rowId: string) =>
  data(api.POST('/classes/{classId}/roster/{rowId}/confirm', { params: { path: { classId, rowId } } }))

export const correctAddress = (classId: string, rowId: string, address: string) =>
  api.PUT('/classes/{classId}/roster/{rowId}/address', { params: { path: { classId, rowId } }, body: { address } })
