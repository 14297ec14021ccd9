/** The modules that are tested by themselves, as a browser loads them. They are not part of the application. */
import { defineConfig } from 'vite'

const desk = 'src/places/capture-desk'

export default defineConfig({
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: 'modules',
    target: 'es2022',
    copyPublicDir: false,
    lib: {
      formats: ['es'],
      entry: {
        keep: `${desk}/keep.ts`,
        sender: `${desk}/sender.ts`,
        unsent: `${desk}/unsent.ts`,
        fingerprint: 'src/parts/fingerprint.ts',
        kept: 'src/parts/kept.ts',
      },
    },
  },
})
