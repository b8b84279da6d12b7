/** Bytes as JSON carries them. */
export async function carried(b: Blob): Promise<string> {
  const url = await new Promise<string>((done, fail) => {
    const r = new FileReader()
    r.onload = () => done(String(r.result))
    r.onerror = () => fail(r.error)
    r.readAsDataURL(b)
  })
  return url.slice(url.indexOf(',') + 1)
}
