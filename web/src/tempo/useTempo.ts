/** The steady tempo of the picture: the tempi that meet its hits, and the one that is looked at. */
import { tempiQuery, type TempiAsked } from '@/api/queries'
import { download } from '@/asking/download'
import { mapClicks, movedBy, pulseBeats, type MapBeats } from '@/drawing/bars'
import { useTempoMap } from './useTempoMap'
import { framesToSeconds } from '@/time'
import { usePictureDesk } from '@/desks/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'

export type TempoForm = '.mid' | '.csv' | '.wav'

/** `isMapSeen`: where the picture's own map is seen, whether or not this is open. */
export function useTempo(isOpen: () => boolean, isMapSeen = isOpen) {
  const { picture, spotting, inOut } = usePictureDesk()
  const asked = reactive({ lowBpm: 60, highBpm: 180, meter: 4, isFromMark: false })
  /** What the click has that is saved: bars before bar one, parts of each beat, bars told apart. */
  const click = reactive({ countIn: 0, parts: 1, hasAccents: true })
  const laid = useTempoMap(isMapSeen)
  /** Whether the picture's own map is seen and heard, in the place of the tempo that was found. */
  const isOwn = ref(true)
  const showsOwn = computed(() => laid.map.value !== null && (isOwn.value || !isOpen()))
  const chosenBpm = ref<number | null>(null)
  const byBpm = ref(false)

  /** What is looked for depends on the hits; they are part of the key, so that a moved hit is answered at once. */
  const wanted = computed<TempiAsked>(() => ({
    pictureId: picture.value?.id ?? 0,
    low_bpm: asked.lowBpm,
    high_bpm: asked.highBpm,
    meter: asked.meter,
    starts_frames: asked.isFromMark ? (inOut.inFrames.value ?? 0) : undefined,
  }))
  const hits = computed(() => spotting.sheet.value?.hits ?? [])
  const query = useQuery(
    computed(() => ({
      ...tempiQuery(wanted.value, JSON.stringify(hits.value)),
      enabled: isOpen() && !!picture.value && hits.value.length > 0,
    })),
  )
  const found = computed(() => query.data.value ?? [])
  const rows = computed(() => (byBpm.value ? [...found.value].sort((a, b) => a.bpm - b.bpm) : found.value))
  const chosen = computed(() => found.value.find((t) => t.bpm === chosenBpm.value) ?? found.value[0] ?? null)
  /** The beats that are seen and heard: of the picture's own map, or of the tempo that is looked at; none while this is closed. */
  const seen = computed<MapBeats | null>(() => {
    const [p, found] = [picture.value, chosen.value]
    if (showsOwn.value) return laid.map.value
    if (!found || !isOpen() || !p) return null
    const pulse = { bpm: found.bpm, meter: found.meter, startsS: found.starts_s }
    return pulseBeats(pulse, framesToSeconds(p.length_frames, p.rate))
  })
  const seenWords = computed(() =>
    showsOwn.value ? 'Bars of the tempo map' : `Bars at ${chosen.value?.bpm} bpm`,
  )
  /** What it makes of each hit. */
  const landed = computed(() => {
    const hits = seen.value ? (showsOwn.value ? laid.map.value : chosen.value)?.hits : undefined
    return new Map((hits ?? []).map((h) => [h.hit_id, h]))
  })
  /** The bar from which on something is changed. */
  const bar = ref(1)
  /** What the click that is saved is like, as it is asked for. */
  const clickAsked = computed(() => ({
    count_in: String(click.countIn),
    parts: String(click.parts),
    accent: String(click.hasAccents),
  }))
  /** What is clicked. `fromS`: where on the picture the clock starts. */
  const clicksFrom = (fromS: number) => {
    const beats = seen.value && movedBy(seen.value, -fromS)
    return beats && ((a: number, b: number) => mapClicks(beats, a, b))
  }
  watch(
    () => picture.value?.id,
    () => {
      chosenBpm.value = null
      isOwn.value = true
      bar.value = 1
      laid.endTry()
    },
  )
  /** A tempo that is pressed is the one that is looked at. */
  function look(bpm: number): void {
    chosenBpm.value = bpm
    isOwn.value = false
  }
  async function lay(): Promise<void> {
    if (chosen.value) await laid.lay(chosen.value)
    isOwn.value = true
  }
  async function read(file: File): Promise<void> {
    await laid.read(file)
    isOwn.value = true
  }
  const saveOwn = (form: TempoForm) => laid.save(form, form === '.wav' ? clickAsked.value : {})

  /** The next tempo of the table, or the one before. */
  function step(by: number): void {
    const at = rows.value.findIndex((t) => t === chosen.value)
    const next = rows.value[Math.min(Math.max(0, at + by), rows.value.length - 1)]
    if (next) look(next.bpm)
  }

  function save(form: TempoForm): void {
    const one = chosen.value
    if (!one || !picture.value) return
    const of = new URLSearchParams({
      form,
      bpm: String(one.bpm),
      meter: String(one.meter),
      starts_s: String(one.starts_s),
      ...(form === '.wav' && clickAsked.value),
    })
    download(`/api/pictures/${picture.value.id}/tempo?${of}`)
  }
  const startsWords = computed(() =>
    picture.value && inOut.inFrames.value !== null
      ? `at the mark in (${framesToSeconds(inOut.inFrames.value, picture.value.rate).toFixed(2)} s)`
      : 'at the first frame',
  )
  return {
    asked,
    click,
    hits,
    query,
    rows,
    chosen,
    byBpm,
    laid,
    isOwn,
    showsOwn,
    clicksFrom,
    seen,
    seenWords,
    landed,
    bar,
    look,
    lay,
    read,
    saveOwn,
    step,
    save,
    startsWords,
  }
}
