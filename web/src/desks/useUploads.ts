import { askAgain } from '@/api/again'
import { toApiError, UNREACHABLE } from '@/api/client'
import { readonly, ref } from 'vue'

export interface Upload {
  id: number
  name: string
  /** 0 to 1 of the file sent. */
  progress: number
  startedAtMs: number
  state: 'sending' | 'refused'
  reason: string
}

let lastId = 0

/** What a file is taken for, by the ending of its name; the server looks at what it holds. */
export type FileKind = 'track' | 'film' | 'marks'
const FILMS = /\.(mp4|m4v|mov|mkv|webm|avi|mxf|mpg|mpeg|ts)$/i
const MARKS = /\.(csv|edl|otio|vtt|srt|midi?)$/i

export const kindOf = (name: string): FileKind =>
  FILMS.test(name) ? 'film' : MARKS.test(name) ? 'marks' : 'track'

interface Takes {
  /** A film came in as a picture. */
  film(pictureId: number): void
  /** A file of marks for the picture on screen. */
  marks(file: File): Promise<void>
}

/** Files on their way in, one after the other; refused ones stay in the list with the reason until they are put away. */
export function useUploads(productionId: () => number | undefined, takes: Takes) {
  const uploads = ref<Upload[]>([])
  const requests = new Map<number, XMLHttpRequest>()

  /** Take files in for what they seem to be, or all `as` one kind; a film perhaps as a new version of a picture. */
  async function add(files: Iterable<File>, as?: FileKind, versionOf?: number): Promise<void> {
    const all = [...files]
    for (const file of all.filter((f) => (as ?? kindOf(f.name)) === 'marks')) await takes.marks(file)
    const batch = all
      .filter((f) => (as ?? kindOf(f.name)) !== 'marks')
      .map((file) => {
        const upload: Upload = {
          id: ++lastId,
          name: file.name,
          progress: 0,
          startedAtMs: performance.now(),
          state: 'sending',
          reason: '',
        }
        uploads.value.push(upload)
        return [file, uploads.value.at(-1)!] as const
      })
    for (const [file, upload] of batch) {
      if (!uploads.value.some((u) => u.id === upload.id)) continue
      const isFilm = (as ?? kindOf(file.name)) === 'film'
      const query = new URLSearchParams({ file_name: file.name })
      if (versionOf !== undefined) query.set('version_of', String(versionOf))
      const where = `/api/productions/${productionId()}/${isFilm ? 'pictures' : 'tracks'}?${query}`
      const made = await send(file, upload, where)
      if (isFilm && made) takes.film(made)
    }
  }

  /** Returns the id of what came of it, or nothing. */
  function send(file: File, upload: Upload, where: string): Promise<number | undefined> {
    return new Promise((resolve) => {
      const request = new XMLHttpRequest()
      let made: number | undefined
      requests.set(upload.id, request)
      upload.startedAtMs = performance.now()
      const refuse = (reason: string) => {
        upload.state = 'refused'
        upload.reason = reason
      }
      request.upload.onprogress = (e) => (upload.progress = e.lengthComputable ? e.loaded / e.total : 0)
      request.onload = () => {
        if (request.status < 300) {
          made = (parsed(request.responseText) as { id?: number } | undefined)?.id
          remove(upload.id)
          void askAgain('tracks', 'production')
        } else refuse(toApiError(parsed(request.responseText), request.status).message)
      }
      request.onerror = () => refuse(UNREACHABLE)
      request.onloadend = () => {
        requests.delete(upload.id)
        resolve(made)
      }
      request.open('POST', where)
      request.setRequestHeader('Content-Type', 'application/octet-stream')
      request.send(file)
    })
  }

  /** Put a refused file away, or stop one that is being sent. */
  function remove(id: number): void {
    uploads.value = uploads.value.filter((u) => u.id !== id)
    requests.get(id)?.abort()
  }

  return { uploads: readonly(uploads), add, remove }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}
