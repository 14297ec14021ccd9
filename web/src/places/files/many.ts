/** The files that this page sends: two at a time, also while one looks at another place. */
import { shallowReactive, watch } from 'vue'
import { send, type Sender } from '../common/sending'

export interface Waiting {
  file: File
  words: string
  sender?: Sender
}

export const sends = shallowReactive<Waiting[]>([])

const together = 2
let busy = 0

const over = (w: Waiting) => ['sent', 'stopped', 'failed'].includes(w.sender?.now.state ?? '')

/**
 * What is dropped twice while it is on its way is taken once; what was dropped before, and is over, is looked at
 * anew.
 */
export function take(found: { file: File; words: string }[]) {
  sends.splice(0, sends.length, ...sends.filter((s) => !over(s)))
  for (const f of found) {
    const twice = sends.some(
      (s) => s.file.name === f.file.name && s.file.size === f.file.size && s.file.lastModified === f.file.lastModified,
    )
    if (!twice) sends.push({ ...f })
  }
  next()
}

function next() {
  while (busy < together) {
    const n = sends.findIndex((s) => !s.sender)
    const w = sends[n]
    if (!w) return
    busy++
    const sender = send(w.file, { words: w.words })
    sends[n] = { ...w, sender }
    let counted = true
    const free = () => {
      if (!counted) return
      counted = false
      busy--
      next()
    }
    void sender.ended.then(free)
    // One that waits for a word of its owner keeps no other waiting.
    watch(
      () => sender.now.state,
      (state) => state === 'known' && free(),
    )
  }
}

export function forget(w: Waiting) {
  const n = sends.indexOf(w)
  if (n >= 0) sends.splice(n, 1)
  if (w.sender && w.sender.now.state !== 'sent') void w.sender.stop()
}

/** filesOf reads what was dropped: files, and those in folders. */
export async function filesOf(data: DataTransfer): Promise<{ file: File; words: string }[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null)
  if (entries.length === 0) return [...data.files].map((file) => ({ file, words: '' }))
  const out: { file: File; words: string }[] = []
  for (const e of entries) await walk(e, '', out)
  return out
}

async function walk(e: FileSystemEntry, folder: string, out: { file: File; words: string }[]): Promise<void> {
  if (e.isFile) {
    const file = await new Promise<File>((done, fail) => (e as FileSystemFileEntry).file(done, fail))
    if (!e.name.startsWith('.')) out.push({ file, words: folder })
    return
  }
  const reader = (e as FileSystemDirectoryEntry).createReader()
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail))
    if (some.length === 0) return
    for (const x of some) await walk(x, `${folder} ${e.name}`.trim(), out)
  }
}
