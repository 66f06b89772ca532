<script setup lang="ts">
/** A bar in hand: the line where it would be, and what that does. `px`: where the hand is. */
defineProps<{ linePx: number; px: number; widthPx: number; words: string; isOff: boolean }>()
</script>

<template>
  <span class="line" :style="{ transform: `translateX(${linePx}px)` }" />
  <span
    class="tip figure"
    role="status"
    :class="{ left: px > widthPx / 2, off: isOff }"
    :style="{ '--at': `${px}px` }"
    >{{ words }}</span
  >
</template>

<style scoped>
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
