/** The second time axis of Fit: zoom and scroll follow the picture; the track below follows what is heard, or goes by itself. */
import { sourceSpan, type Piece, type Scales } from '@/drawing/layout'
import { endS } from '@/drawing/scale'
import type { LaneStack } from '@/lanes/useLaneStack'
import { useView } from '@/lanes/useView'
import { computed, watch, type Ref } from 'vue'

const AROUND = 1.3 // of what is heard: so much of the track is shown about it
const NEARLY_ALL = 0.7 // of the track: then all of it is shown

export function useSourceView(
  stack: LaneStack,
  trackS: Ref<number>,
  pieces: Ref<Piece[]>,
  rate: Ref<number>,
) {
  const out = stack.view
  const below = useView(stack.area, trackS, rate)
  const scales = computed<Scales>(() => ({ out: out.scale.value, source: below.scale.value }))

  /** Show of the track what is heard in view, as near as the picture is. */
  function followHeard(): void {
    const { startS, pxPerS } = out.scale.value
    const span = out.isWhole.value ? null : sourceSpan(pieces.value, startS, endS(out.scale.value))
    const showsS = span && Math.max((span[1] - span[0]) * AROUND, (out.scale.value.widthPx / pxPerS) * AROUND)
    if (!span || !showsS || showsS > NEARLY_ALL * trackS.value) below.showAll()
    else below.zoomTo((span[0] + span[1]) / 2, showsS)
  }
  watch([out.scale, pieces], followHeard, { flush: 'sync' })
  return { below, scales }
}
