import { answer, api, type Job } from '@/api/client'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

/** One job followed to its end, which is told once: done, failed or cancelled. */
export function useFollowedJob(onEnd: (job: Job) => void) {
  const jobId = ref<number | null>(null)
  const path = () => ({ params: { path: { job_id: jobId.value! } } })
  const { data: job } = useQuery({
    queryKey: computed(() => ['job', jobId.value]),
    queryFn: () => answer(api.GET('/api/jobs/{job_id}', path())),
    enabled: computed(() => jobId.value !== null),
    refetchInterval: 1000, // in case an event is missed
  })
  const running = computed<Job | null>(() => (jobId.value !== null && job.value ? job.value : null))

  watch(job, (now) => {
    if (jobId.value === null || now?.id !== jobId.value) return
    if (now.state === 'waiting' || now.state === 'running') return
    jobId.value = null
    onEnd(now)
  })

  function follow(id: number): void {
    jobId.value = id
  }

  async function cancel(): Promise<void> {
    if (jobId.value === null) return
    await api.POST('/api/jobs/{job_id}/cancel', path())
    jobId.value = null
  }

  return { running, follow, cancel }
}
