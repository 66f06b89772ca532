import { toApiError, UNREACHABLE } from '@/api/client'
import { queryClient } from '@/api/queries'
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

/** Files on their way in, one after the other; refused ones stay in the list with the reason until they are put away. */
export function useUploads(productionId: () => number | undefined) {
  const uploads = ref<Upload[]>([])
  const requests = new Map<number, XMLHttpRequest>()

  async function add(files: Iterable<File>): Promise<void> {
    const batch = [...files].map((file) => {
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
      if (uploads.value.some((u) => u.id === upload.id)) await send(file, upload)
    }
  }

  function send(file: File, upload: Upload): Promise<void> {
    return new Promise((resolve) => {
      const request = new XMLHttpRequest()
      requests.set(upload.id, request)
      upload.startedAtMs = performance.now()
      const refuse = (reason: string) => {
        upload.state = 'refused'
        upload.reason = reason
      }
      request.upload.onprogress = (e) => (upload.progress = e.lengthComputable ? e.loaded / e.total : 0)
      request.onload = () => {
        if (request.status < 300) {
          remove(upload.id)
          void queryClient.invalidateQueries({ queryKey: ['tracks'] })
        } else refuse(toApiError(parsed(request.responseText), request.status).message)
      }
      request.onerror = () => refuse(UNREACHABLE)
      request.onloadend = () => {
        requests.delete(upload.id)
        resolve()
      }
      request.open(
        'POST',
        `/api/productions/${productionId()}/tracks?file_name=${encodeURIComponent(file.name)}`,
      )
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
