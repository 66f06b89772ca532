<script setup lang="ts">
import type { Plan, Seam } from '@/api/client'
import { inViewPx, toPx, type TimeScale } from '@/drawing/scale'
import { gradeInWords, smoothnessInWords } from '@/words/seams'
import { STITCH_PX } from '@/drawing/ties'
import { formatClock } from '@/time'
import { computed } from 'vue'

/** What can be done with the seams where they are painted: each is one element, whatever it looks like. */
const props = defineProps<{ plan: Plan | null; scale: TimeScale }>()
defineEmits<{ hear: [seam: Seam] }>()

const told = computed(() =>
  (props.plan?.seams ?? []).map((seam, i) => {
    const atS = seam.out_samples / props.plan!.rate
    const words =
      `Seam ${i + 1} at ${formatClock(atS, 2)}, ${gradeInWords(seam)}: ` +
      `smoother than ${smoothnessInWords(seam)}${seam.reason ? `; ${seam.reason}` : ''}`
    return { seam, atS, words }
  }),
)
const seen = computed(() => told.value.filter(({ atS }) => inViewPx(props.scale, atS, atS, STITCH_PX)))
</script>

<template>
  <div class="stitches" role="group" aria-label="Seams">
    <button
      v-for="{ seam, atS, words } in seen"
      :key="seam.out_samples"
      class="stitch"
      :style="{ transform: `translateX(${toPx(scale, atS)}px)` }"
      :aria-label="words"
      :title="`${words}. Click to hear two bars around it.`"
      @click.stop="$emit('hear', seam)"
      @pointerdown.stop
    />
  </div>
</template>

<style scoped>
.stitches {
  position: absolute;
  inset: 0;
  height: 34px;
  overflow: hidden;
  pointer-events: none;
}
.stitch {
  position: absolute;
  top: 3px;
  left: -14px;
  width: 28px;
  height: 28px;
  border: 2px solid transparent;
  border-radius: 50%;
  background: none;
  cursor: pointer;
  pointer-events: auto;
}
.stitch:hover,
.stitch:focus-visible {
  border-color: rgb(var(--v-theme-primary));
  outline: none;
}
</style>
