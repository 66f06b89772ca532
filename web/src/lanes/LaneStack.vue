<script setup lang="ts">
import type { LaneStack, View } from './useLaneStack'
import PlayHead from './PlayHead.vue'
import ScrollStrip from './ScrollStrip.vue'

/**
 * Lanes under each other on one time axis, with their names at the left, the playhead over them and a strip to scroll.
 * What is put in is one element a lane, in their order, and whatever lies over them.
 */
const props = defineProps<{
  stack: LaneStack
  label: string
  namesPx: number
  /** The lane before which the playhead ends; the last one if there is none. */
  headEndsAt?: string
  /** Which view the wheel turns, where there is more than one. */
  viewOf?: (event: WheelEvent) => View
}>()
defineEmits<{ press: [event: PointerEvent] }>()
const { scale } = props.stack // one stack as long as the lanes are there
</script>

<template>
  <section class="lanes" :aria-label="label">
    <div class="names" :style="{ width: `${namesPx}px`, gridTemplateRows: `${stack.rows.value} 20px` }">
      <div v-for="lane in stack.lanes.value" :key="lane.key" class="name" :title="lane.title">
        <slot :name="`name-${lane.key}`">{{ lane.name }}</slot>
      </div>
    </div>
    <div
      :ref="stack.area"
      class="area"
      :style="{ gridTemplateRows: `${stack.rows.value} 20px` }"
      @wheel.prevent="stack.turn($event, viewOf?.($event))"
      @pointerdown="$emit('press', $event)"
    >
      <slot :scale="scale" />
      <ScrollStrip :scale="scale" :whole-s="stack.wholeS.value" @scroll="stack.view.scrollBy" />
      <PlayHead
        :clock="stack.clock"
        :scale="scale"
        :style="{ gridRow: `1 / ${headEndsAt ? stack.lineOf(headEndsAt) : -2}` }"
      />
    </div>
  </section>
</template>

<style scoped>
.lanes {
  display: flex;
  min-height: 0;
  font-size: 13px;
}
.names {
  flex: none;
  display: grid;
  min-height: 0;
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.name {
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 3px;
  min-height: 0;
  padding-left: 15px;
  line-height: 1.25;
  overflow: hidden;
}
.area {
  position: relative;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  flex: 1;
  min-width: 0;
  min-height: 0;
  overflow: hidden;
  touch-action: none;
  contain: layout paint style; /* what moves in here moves nothing elsewhere */
}
</style>
