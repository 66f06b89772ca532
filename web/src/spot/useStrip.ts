import type { Schemas, Shot } from '@/api/client'
import { frameToPx, thumbTiles } from '@/drawing/spot'
import type { TimeScale } from '@/drawing/scale'
import type { Rate } from '@/time'
import { useCanvas } from '@/lanes/useCanvas'
import { ref, watch, type Ref } from 'vue'

interface Shown {
  film: Schemas['FilmRead'] | null
  rate: Rate
  length_frames: number
}

/** Repaints the picture strip: small pictures of the film, or the shots in two shades, with a line at every cut. */
export function useStrip(
  canvas: Ref<HTMLCanvasElement | null>,
  scale: Ref<TimeScale>,
  picture: Ref<Shown>,
  shots: Ref<readonly Shot[]>,
  dark: Ref<boolean>,
): void {
  const sheet = ref<HTMLImageElement | null>(null)
  let url: string | null = null

  watch(
    () => picture.value.film?.thumbs_url ?? null,
    (now) => {
      url = now
      sheet.value = null
      if (!now) return
      const image = new Image()
      image.onload = () => {
        if (url === now) sheet.value = image
      }
      image.src = now
    },
    { immediate: true },
  )

  useCanvas(canvas, dark, [scale, picture, shots, sheet], (paper) => {
    const { context, heightPx } = paper
    const { film, rate, length_frames } = picture.value
    const ink = dark.value ? '#e8dfcf' : '#23262a'
    if (sheet.value && film?.thumbs) {
      for (const t of thumbTiles(scale.value, heightPx, film.thumbs, rate, length_frames)) {
        const shown = (t.widthPx * film.thumbs.height_px) / heightPx
        context.drawImage(
          sheet.value,
          t.fromX,
          t.fromY,
          shown,
          film.thumbs.height_px,
          t.leftPx,
          0,
          t.widthPx,
          heightPx,
        )
      }
    } else {
      shots.value.forEach((s, i) => {
        const [left, right] = [s.start_frames, s.end_frames].map((f) => frameToPx(scale.value, f, rate))
        if (right! < 0 || left! > paper.widthPx) return
        context.globalAlpha = i % 2 ? 0.1 : 0.2
        context.fillStyle = ink
        context.fillRect(left!, 0, right! - left!, heightPx)
      })
    }
    context.globalAlpha = 0.9
    context.fillStyle = sheet.value ? '#ffffff' : ink // over pictures that are mostly dark
    let last = -2
    for (const s of shots.value) {
      const px = Math.round(frameToPx(scale.value, s.start_frames, rate))
      if (px < 0 || px > paper.widthPx || px - last < 2) continue
      context.fillRect(px, 0, 1, heightPx)
      last = px
    }
    context.globalAlpha = 1
  })
}
