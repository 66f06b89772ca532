import { answer, api } from '@/api/client'
import { download } from '@/asking/download'
import { ref } from 'vue'
import { useFollowedJob } from '@/asking/useFollowedJob'

export type SampleFormat = 'int16' | 'int24' | 'float32'

/** Saving a fit as a file: starts the job, follows it, and fetches the file when it is there. */
export function useRender(take: (url: string) => void = download) {
  const failure = ref('')
  const { running, follow, cancel } = useFollowedJob((job) => {
    if (job.state === 'done') take(`/api/jobs/${job.id}/file`)
    if (job.state === 'failed') failure.value = job.error ?? 'The file could not be rendered.'
  })

  async function save(fitId: number, format: SampleFormat): Promise<void> {
    failure.value = ''
    try {
      const call = api.POST('/api/fits/{fit_id}/renders', {
        params: { path: { fit_id: fitId } },
        body: { sample_format: format },
      })
      follow((await answer(call)).id)
    } catch (error) {
      failure.value = (error as Error).message
    }
  }

  return { running, failure, save, cancel }
}
