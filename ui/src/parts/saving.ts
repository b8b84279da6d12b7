/** Puts a file that was answered into the downloads, under the name it came with. */
export function useSaving() {
  async function save(asked: Promise<{ data?: Blob | string; response: Response }>) {
    const { data, response } = await asked
    const said = response.headers.get('content-disposition') ?? ''
    const name = decodeURIComponent(/filename\*=utf-8''([^;]+)/i.exec(said)?.[1] ?? '') || 'list'
    const a = document.createElement('a')
    a.href = URL.createObjectURL(data as Blob)
    a.download = name
    a.click()
    setTimeout(() => URL.revokeObjectURL(a.href), 10_000)
  }
  return { save }
}
