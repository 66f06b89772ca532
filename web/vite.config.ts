import vue from '@vitejs/plugin-vue'
import vuetify from 'vite-plugin-vuetify'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const MOCKED = 'src/**/*.mocked.spec.ts'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: { proxy: { '/api': 'http://127.0.0.1:8620' } },
  build: { chunkSizeWarningLimit: 700 },
  test: {
    environment: 'happy-dom',
    globals: true,
    unstubGlobals: true,
    server: { deps: { inline: ['vuetify'] } },
    // Modules and the document are made once for all tests, in a quarter of the time, but for those that put others in the
    // place of modules.
    projects: [
      { extends: true, test: { name: 'together', isolate: false, exclude: ['node_modules/**', MOCKED] } },
      { extends: true, test: { name: 'mocked', include: [MOCKED] } },
    ],
  },
})
