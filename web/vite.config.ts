import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'
import { defineConfig, type Plugin } from 'vite'
import { budget } from './budget.ts'

/** compressed puts a gzip beside each script and style, for the server to send as it is. */
const compressed: Plugin = {
  name: 'compressed',
  closeBundle() {
    for (const name of readdirSync('dist/assets'))
      if (/\.(js|css)$/.test(name))
        writeFileSync(`dist/assets/${name}.gz`, gzipSync(readFileSync(`dist/assets/${name}`), { level: 9 }))
  },
}

export default defineConfig({
  plugins: [
    // A break between two words in a template is a space between them on the page.
    vue({ template: { compilerOptions: { whitespace: 'preserve' } } }),
    Components({ dirs: [], dts: 'src/components.d.ts', resolvers: [ElementPlusResolver({ importStyle: 'css' })] }),
    compressed,
    budget,
  ],
  build: { target: 'es2022', chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  server: { proxy: { '/api': 'http://127.0.0.1:8080', '/media': 'http://127.0.0.1:8080' } },
})
