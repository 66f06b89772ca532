/** Have the browser save what an address gives, under the name that the server says. */
export function download(url: string): void {
  const link = document.createElement('a')
  link.href = url
  link.download = ''
  link.click()
}
