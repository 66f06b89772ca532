<script setup lang="ts">
/** What the click is like that is saved. */
const countIn = defineModel<number>('countIn', { required: true })
const parts = defineModel<number>('parts', { required: true })
const hasAccents = defineModel<boolean>('hasAccents', { required: true })
const COUNT_INS = ['no bar', 'one bar', 'two bars', 'three bars', 'four bars']
const PARTS = ['every beat', 'off-beats too', 'thirds of beats', 'quarters of beats']
</script>

<template>
  <div class="click">
    <span class="quiet">Click with</span>
    <label
      title="Bars that are clicked before bar one; where they begin before the picture, so does the file"
    >
      count-in
      <select v-model.number="countIn" aria-label="Bars of count-in">
        <option v-for="bars in COUNT_INS.length" :key="bars" :value="bars - 1">
          {{ COUNT_INS[bars - 1] }}
        </option>
      </select>
    </label>
    <label title="What is clicked of every beat">
      <select v-model.number="parts" aria-label="Clicks to a beat">
        <option v-for="(words, i) in PARTS" :key="words" :value="i + 1">{{ words }}</option>
      </select>
    </label>
    <label title="Beat one of every bar is louder and higher">
      <input v-model="hasAccents" type="checkbox" /> accents
    </label>
  </div>
</template>

<style scoped>
.click {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 16px;
}
</style>
