import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

const api = `http://127.0.0.1:${process.env.VIREO_API_PORT ?? 8766}`

export default defineConfig({
  plugins: [vue()],
  build: {
    outDir: '../src/vireo/server/site',
    emptyOutDir: true,
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: 'vue', test: /node_modules[\\/](@?vue|pinia)/, priority: 40 },
            { name: 'three', test: /node_modules[\\/]three/, priority: 30 },
            {
              name: 'naive',
              test: /node_modules[\\/](naive-ui|vueuc|vooks|vdirs|seemly|css-render|@css-render|treemate|evtd|date-fns)/,
              priority: 20,
            },
          ],
        },
      },
    },
  },
  server: { proxy: { '/api': { target: api, changeOrigin: true } } },
  test: { environment: 'happy-dom', include: ['src/**/*.test.ts'] },
})
