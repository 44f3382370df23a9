import { computed, onBeforeUnmount, ref, shallowRef } from 'vue'
import type { DialectName } from '../../core/dialect/dialect.ts'
import { api, type Job, type StateName } from '../api/client.ts'

/** A proof that runs on the server: followed as it goes, and cancelled. */
export function useProof() {
  const job = shallowRef<Job>()
  const failure = ref('')
  let events: EventSource | undefined

  function start(
    design: string,
    to: StateName,
    from: StateName | undefined,
    engines: DialectName[],
    only: readonly string[] | undefined
  ): Promise<void> {
    return run({
      design,
      to,
      engines,
      ...(from !== undefined && { from }),
      ...(only && { only: [...only] })
    })
  }

  /** What is asked for runs, and is followed until it ends. */
  async function run(asked: Parameters<typeof api.prove>[0]): Promise<void> {
    stop()
    failure.value = ''
    try {
      job.value = await api.prove(asked)
      const source = (events = new EventSource(`/api/proofs/${job.value.id}/events`))
      source.addEventListener('proof', (event) => {
        job.value = JSON.parse((event as MessageEvent<string>).data) as Job
        if (job.value.ended) source.close()
      })
    } catch (error) {
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  function stop(): void {
    events?.close()
    job.value = undefined
  }

  async function cancel(): Promise<void> {
    if (job.value && !job.value.ended)
      await api.cancelProof(job.value.id).catch((error: Error) => {
        failure.value = error.message
      })
  }

  onBeforeUnmount(() => events?.close())
  return {
    job,
    failure,
    running: computed(() => job.value !== undefined && !job.value.ended),
    start,
    run,
    stop,
    cancel
  }
}
