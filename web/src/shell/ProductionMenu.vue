<script setup lang="ts">
import { letKeysGo } from '@/keys/useKeys'
import { useSession } from '@/desks/workbench'
import { mdiChevronDown } from '@mdi/js'
import { computed, ref } from 'vue'
import NameDialog from '@/fields/NameDialog.vue'

/** The production on screen by name, all others to open, and what can be done with it as a whole. */
const session = useSession()
const { production, productions, productionId } = session
const isAdding = ref(false)
const isNaming = ref(false)
const arePutAwayShown = ref(false)
const open = computed(() => (productions.value ?? []).filter((p) => !p.is_put_away))
const putAway = computed(() => (productions.value ?? []).filter((p) => p.is_put_away))

function takeOut(id: number): void {
  void session.updateProduction(id, { is_put_away: false })
  session.openProduction(id)
}
</script>

<template>
  <v-menu @after-leave="letKeysGo">
    <template #activator="{ props: opens }">
      <v-btn
        v-bind="opens"
        class="production"
        variant="text"
        :append-icon="mdiChevronDown"
        aria-label="Choose a production"
        :title="production?.name"
      >
        <span class="words">{{ production?.name ?? '…' }}</span>
      </v-btn>
    </template>
    <v-list density="compact" max-width="420">
      <v-list-item
        v-for="one in open"
        :key="one.id"
        :title="one.name"
        :active="one.id === productionId"
        @click="session.openProduction(one.id)"
      />
      <v-divider class="my-1" />
      <v-list-item title="A new production …" @click="isAdding = true" />
      <template v-if="production && productionId">
        <v-list-item title="Name this one …" @click="isNaming = true" />
        <v-list-item
          v-if="open.length > 1"
          title="Put this one away"
          subtitle="everything in it is kept"
          @click="session.updateProduction(productionId, { is_put_away: true })"
        />
      </template>
      <template v-if="putAway.length">
        <v-divider class="my-1" />
        <v-list-item
          v-if="!arePutAwayShown"
          :title="`${putAway.length} put away …`"
          @click.stop="arePutAwayShown = true"
        />
        <v-list-item
          v-for="one in arePutAwayShown ? putAway : []"
          :key="one.id"
          :title="one.name"
          subtitle="take it out again"
          @click="takeOut(one.id)"
        />
      </template>
    </v-list>
  </v-menu>
  <NameDialog
    v-model="isAdding"
    title="A new production"
    name=""
    does="Make it"
    @named="session.addProduction"
  />
  <NameDialog
    v-if="production"
    v-model="isNaming"
    title="Name of the production"
    :name="production.name"
    does="Name it"
    @named="(name) => session.updateProduction(productionId!, { name })"
  />
</template>

<style scoped>
.production {
  max-width: 100%;
  padding: 0 8px;
  font-weight: 400;
  font-size: 14px;
  letter-spacing: 0;
  text-transform: none;
}
.production :deep(.v-btn__content) {
  min-width: 0;
}
.words {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
