import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
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

/** The player of streams, as its package ships its sources. */
const streams = fileURLToPath(new URL('node_modules/hls.js/', import.meta.url))

/**
 * What of it is built in: sound and pictures in tracks of their own, and nothing for what no stream of ours has, which
 * is a third of what a player loads.
 */
const streamParts = {
  __USE_ALT_AUDIO__: 'true',
  __USE_CMCD__: 'false',
  __USE_CONTENT_STEERING__: 'false',
  __USE_EME_DRM__: 'false',
  __USE_IFRAMES__: 'false',
  __USE_INTERSTITIALS__: 'false',
  __USE_M2TS_ADVANCED_CODECS__: 'false',
  __USE_MEDIA_CAPABILITIES__: 'false',
  __USE_SUBTITLES__: 'false',
  __USE_VARIABLE_SUBSTITUTION__: 'false',
  __HLS_WORKER_BUNDLE__: 'undefined',
  __IN_WORKER__: 'false',
  __VERSION__: JSON.stringify('own'),
}

/** What of the library of pages is built in: nothing here says its parts by options. */
const pageParts = { __VUE_OPTIONS_API__: 'false', __VUE_PROD_DEVTOOLS__: 'false' }

/** What of the library of texts is built in: nothing of its older interface, and its components where they are used. */
const textParts = {
  __VUE_I18N_LEGACY_API__: 'false',
  __VUE_I18N_FULL_INSTALL__: 'false',
  __INTLIFY_PROD_DEVTOOLS__: 'false',
}

export default defineConfig({
  define: { ...streamParts, ...pageParts, ...textParts },
  resolve: { alias: [{ find: /^hls\.js$/, replacement: `${streams}src/hls.ts` }] },
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
