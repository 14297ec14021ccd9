/** base64 gives the bytes of a file in base64, a piece at a time. */
export async function base64(file: File): Promise<string> {
  const url = await new Promise<string>((done, fail) => {
    const r = new FileReader()
    r.onload = () => done(r.result as string)
    r.onerror = () => fail(r.error ?? new Error('unreadable'))
    r.readAsDataURL(file)
  })
  return url.slice(url.indexOf(',') + 1)
}
