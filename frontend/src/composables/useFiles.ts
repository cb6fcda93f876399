/** Files out to the person's disk, and in from it. */
import { Refusal, type Schemas } from '@/api/client'

const MOST_BYTES = 1_000_000

/** Hand a file of the server's to the browser, which keeps it where it keeps files. */
export function saveFile(file: Schemas['FileOut']) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([file.text], { type: file.media }))
  link.download = file.name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1_000)
}

/** What a typed call needs to send one file. The server bounds it too; a larger one need not travel first. */
export function upload(file: File) {
  if (file.size > MOST_BYTES) {
    throw new Refusal(413, [
      { field: 'file', value: file.size, message: `“${file.name}” is larger than 1 MB; give a smaller file.` },
    ])
  }
  const body = { file: file as unknown as string }
  return {
    body,
    bodySerializer: () => {
      const form = new FormData()
      form.append('file', file)
      return form
    },
  }
}
