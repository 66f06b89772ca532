import { answer, api, type Job } from '@/api/client'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

export type SampleFormat = 'int16' | 'int24' | 'float32'

/** Saving a fit as a file: starts the job, follows it, and fetches the file when it is there. */
export function useRender(download: (url: string) => void = clickLink) {
  const jobId = ref<number | null>(null)
  const failure = ref('')

  const { data: job } = useQuery({
    queryKey: computed(() => ['job', jobId.value]),
    queryFn: () => answer(api.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId.value! } } })),
    enabled: computed(() => jobId.value !== null),
    refetchInterval: 1000, // in case an event is missed
  })
  const running = computed<Job | null>(() => (jobId.value !== null && job.value ? job.value : null))

  watch(job, (now) => {
    if (jobId.value === null || now?.id !== jobId.value) return
    if (now.state === 'done') download(`/api/jobs/${now.id}/file`)
    if (now.state === 'failed') failure.value = now.error ?? 'The file could not be rendered.'
    if (now.state !== 'waiting' && now.state !== 'running') jobId.value = null
  })

  async function save(fitId: number, format: SampleFormat): Promise<void> {
    failure.value = ''
    try {
      const call = api.POST('/api/fits/{fit_id}/renders', {
        params: { path: { fit_id: fitId } },
        body: { sample_format: format },
      })
      jobId.value = (await answer(call)).id
    } catch (error) {
      failure.value = (error as Error).message
    }
  }

  async function cancel(): Promise<void> {
    if (jobId.value === null) return
    await api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: jobId.value } } })
    jobId.value = null
  }

  return { running, failure, save, cancel }
}

function clickLink(url: string): void {
  const link = document.createElement('a')
  link.href = url
  link.download = ''
  link.click()
}
