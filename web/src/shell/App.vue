<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useTheme } from 'vuetify'
import AppHeader from './AppHeader.vue'
import FasterDialog from './FasterDialog.vue'
import KeyList from '@/keys/KeyList.vue'
import PicturePanel from '@/picture/PicturePanel.vue'
import ProductionMenu from './ProductionMenu.vue'
import TrackList from '@/library/TrackList.vue'
import { useEvents } from './useEvents'
import { useKeys, type KeyAction } from '@/keys/useKeys'
import { filesOf } from '@/library/library'
import { setUpWorkbench } from '@/desks/workbench'

const { session, pictureDesk, transport } = setUpWorkbench()
const { player } = transport
const { isConnected } = useEvents()
const theme = useTheme()
const isKeyListOpen = ref(false)
const isDraggedOver = ref(false)

function switchTheme(): void {
  const next = theme.current.value.dark ? 'day' : 'night'
  theme.change(next)
  localStorage.setItem('theme', next)
}

const route = useRoute()
/** Spotting needs the picture large; what it plays is the picture with its cues. */
const isSpotting = computed(() => route.path === '/spot')
const LISTENING_TO = { '/spot': 'picture', '/gather': 'track' } as const
watch(
  () => route.path,
  (path) => (transport.listeningTo.value = LISTENING_TO[path as keyof typeof LISTENING_TO] ?? 'fit'),
  { immediate: true },
)

const keys: KeyAction[] = [
  { key: ' ', keys: 'Space', words: 'Play and pause', run: player.toggle },
  { key: 'Home', keys: 'Home', words: 'Go to the start', run: () => player.seek(0) },
  { key: 'End', keys: 'End', words: 'Go to the end', run: () => player.seek(transport.lengthS.value) },
  { key: 'z', ctrl: true, shift: false, keys: 'Ctrl Z', words: 'Undo', run: () => void session.undo() },
  { key: 'z', ctrl: true, shift: true, keys: 'Ctrl Shift Z', words: 'Redo', run: () => void session.redo() },
  { key: '?', keys: '?', words: 'This list', run: () => (isKeyListOpen.value = true) },
]
useKeys(() => keys)

/** What was pressed with the mouse gives the keys back to the page: Space plays, whatever was clicked last. */
function letGo(event: MouseEvent): void {
  const pressed = event.target instanceof Element ? event.target.closest('button, a') : null
  const opens = pressed?.matches('[aria-haspopup], .v-overlay *')
  if (event.detail > 0 && pressed && !opens) (document.activeElement as HTMLElement | null)?.blur()
}

async function onDrop(event: DragEvent): Promise<void> {
  isDraggedOver.value = false
  const files = event.dataTransfer ? await filesOf(event.dataTransfer) : []
  if (files.length) await pictureDesk.uploads.add(files)
}
</script>

<template>
  <v-app
    @click="letGo"
    @dragover.prevent="isDraggedOver = true"
    @dragleave.self="isDraggedOver = false"
    @drop.prevent="onDrop"
  >
    <div class="shell">
      <AppHeader
        :history="session.production.value?.history"
        :is-dark="theme.current.value.dark"
        @undo="session.undo"
        @redo="session.redo"
        @keys="isKeyListOpen = true"
        @theme="switchTheme"
      >
        <ProductionMenu />
      </AppHeader>
      <v-alert
        v-if="session.failure.value || !isConnected"
        type="warning"
        density="compact"
        tile
        class="banner"
      >
        {{ session.failure.value || 'Waiting for Even Seam to answer …' }}
        <template #append><v-btn size="small" @click="session.reload">Try again</v-btn></template>
      </v-alert>
      <div class="body" :class="{ spotting: isSpotting }">
        <aside class="side" aria-label="Picture and tracks">
          <PicturePanel :is-wide="isSpotting" />
          <TrackList v-if="!isSpotting" />
        </aside>
        <main class="main"><router-view /></main>
      </div>
    </div>
    <div v-if="isDraggedOver" class="drop" @dragleave="isDraggedOver = false">
      <div>Drop music, whole folders, films, edit lists or captions: each goes where it belongs</div>
    </div>
    <FasterDialog />
    <KeyList v-model="isKeyListOpen" />
    <v-snackbar
      :model-value="!!session.message.value"
      color="surface-bright"
      timeout="8000"
      @update:model-value="session.message.value = ''"
    >
      {{ session.message.value }}
      <template #actions><v-btn variant="text" @click="session.message.value = ''">Close</v-btn></template>
    </v-snackbar>
  </v-app>
</template>

<style scoped>
.shell {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.banner {
  flex: none;
}
.body {
  display: flex;
  flex: 1;
  min-height: 0;
}
.side {
  width: 316px;
  flex: none;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.main {
  flex: 1;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.spotting {
  display: grid;
  grid-template:
    'picture table' minmax(0, 1fr)
    'lanes lanes' auto / minmax(0, 1.02fr) minmax(0, 1fr);
}
.spotting .side {
  grid-area: picture;
  width: auto;
}
/* The page lays its table beside the picture and its lanes under both. */
.spotting .main {
  display: contents;
}
.drop {
  position: fixed;
  inset: 0;
  z-index: 2000;
  display: grid;
  place-items: center;
  background: rgba(10, 12, 14, 0.7);
  color: #fff;
  font-size: 22px;
}
.drop div {
  pointer-events: none;
  padding: 40px 60px;
  border: 2px dashed rgb(var(--v-theme-primary));
  border-radius: 12px;
}
</style>
