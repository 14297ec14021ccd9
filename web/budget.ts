/** What a first page may weigh on the line, scripts and styles compressed; fonts come beside it and are kept. */
import { gzipSync } from 'node:zlib'
import type { Plugin } from 'vite'

interface Page {
  name: string
  /** The modules that it begins with; what they import comes with them. */
  of: string[]
  most: number
}

const pages: Page[] = [
  {
    name: 'term board',
    of: ['src/main.ts', 'places/HomePlace.vue', 'places/term-board/TermBoard.vue', 'messages/en/staff.ts'],
    most: 260_000,
  },
  { name: 'catch-up', of: ['src/main.ts', 'places/HomePlace.vue', 'places/catch-up/CatchUp.vue'], most: 200_000 },
  // With all that is fetched ahead of it from the catch-up page.
  { name: 'watching', of: ['src/main.ts', 'places/watch/WatchPlace.vue'], most: 350_000 },
]

/** budget says what the first pages weigh, and fails the build when one is too heavy. */
export const budget: Plugin = {
  name: 'budget',
  writeBundle(_, bundle) {
    const weights = new Map<string, number>()
    const weigh = (file: string): void => {
      const part = bundle[file]
      if (!part || weights.has(file)) return
      weights.set(file, gzipSync(part.type === 'chunk' ? part.code : part.source, { level: 9 }).length)
      if (part.type !== 'chunk') return
      part.viteMetadata?.importedCss.forEach(weigh)
      part.imports.forEach(weigh)
    }
    for (const page of pages) {
      weights.clear()
      for (const module of page.of) {
        const chunk = Object.values(bundle).find(
          (c) => c.type === 'chunk' && c.moduleIds.some((id) => id.split('?')[0]!.endsWith(module)),
        )
        if (!chunk) this.error(`${page.name}: there is no ${module}`)
        weigh(chunk.fileName)
      }
      const all = [...weights.values()].reduce((a, b) => a + b, 0)
      console.log(
        `first page of ${page.name}: ${Math.round(all / 1000)} kB of ${page.most / 1000}, in ${weights.size} files`,
      )
      if (process.env.WEIGHTS) console.table([...weights].sort((a, b) => b[1] - a[1]).slice(0, 20))
      if (all > page.most) this.error(`the first page of ${page.name} is heavier than it may be`)
    }
  },
}
