<script setup lang="ts">
import type { useBarDrag } from './useBarDrag'

/** A lane of bars that can be taken hold of: the canvas that is put in, and of the one in hand where it would be and what that does. */
defineProps<{
  drag: ReturnType<typeof useBarDrag>
  /** Whether any can be taken. */
  canTake: boolean
  linePx: number
  widthPx: number
  words: string
  /** Whether it cannot be there. */
  isOff: boolean
}>()
</script>

<template>
  <div
    class="bars"
    role="group"
    :class="{ hold: drag.pointed.value && canTake, held: drag.held.value }"
    v-on="drag.on"
  >
    <slot />
    <template v-if="drag.held.value && drag.isMoved.value">
      <span class="line" :style="{ transform: `translateX(${linePx}px)` }" />
      <span
        class="tip figure"
        role="status"
        :class="{ left: drag.held.value.px > widthPx / 2, off: isOff }"
        :style="{ '--at': `${drag.held.value.px}px` }"
        >{{ words }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.bars {
  position: relative;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  touch-action: none;
}
.hold {
  cursor: grab;
}
.held {
  cursor: grabbing;
}
:slotted(canvas) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.line {
  position: absolute;
  top: 0;
  left: -1px;
  width: 2px;
  height: 46px;
  background: rgb(var(--v-theme-primary));
  pointer-events: none;
  z-index: 4;
}
.tip {
  position: absolute;
  top: -31px;
  left: calc(var(--at) + 12px);
  z-index: 4;
  padding: 2px 8px;
  border-radius: 4px;
  white-space: nowrap;
  user-select: none;
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  font-size: 14px;
  pointer-events: none;
}
.tip.left {
  left: auto;
  right: calc(100% - var(--at) + 12px);
}
.tip.off {
  background: rgb(var(--v-theme-error));
  color: rgb(var(--v-theme-background));
}
</style>
