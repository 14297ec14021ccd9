import { useFileDialog } from '@vueuse/core'

/**
 * useChoosing gives the function that opens the dialog of the computer to choose files. The same file can be chosen
 * again after it was mended.
 */
export function useChoosing(accept: () => string, multiple: boolean, take: (files: File[]) => unknown): () => void {
  const { open, onChange } = useFileDialog({ multiple, reset: true })
  onChange((list) => {
    if (list && list.length > 0) void take([...list])
  })
  return () => open({ accept: accept() })
}
