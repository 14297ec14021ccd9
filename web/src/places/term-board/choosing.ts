/** Which lectures of the board are chosen, to do the same to all of their recordings. */
import { computed, ref, type Ref } from 'vue'
import type { Schemas } from '../../api/client'

type Row = Schemas['Row']
type Lantern = Row['lectures'][number]

/** As many as one step takes. */
const most = 200

/** Of a recording that nobody can watch yet, or of one that some can, more can be made. */
export const choosable = (l: Lantern) => l.state === 'dark' || l.state === 'part_lit' || l.state === 'lit'

/** useChoosing chooses among the lectures of rows as they stand on the board. */
export function useChoosing(rows: Ref<Row[]>) {
  const on = ref(false)
  const chosen = ref(new Set<string>())
  /** From where a range goes. */
  const from = ref('')
  const places = computed(() => {
    const out = new Map<string, { row: number; monday: string }>()
    rows.value.forEach((r, row) => r.lectures.forEach((l) => out.set(l.id, { row, monday: l.monday })))
    return out
  })
  const list = computed(() => [...chosen.value])

  /** put chooses these, or takes them out again when all of them are chosen. */
  function put(lectures: Lantern[], only?: boolean) {
    const ids = lectures.filter(choosable).map((l) => l.id)
    const out = only !== true && ids.length > 0 && ids.every((id) => chosen.value.has(id))
    const next = new Set(chosen.value)
    for (const id of ids) {
      if (out) next.delete(id)
      else if (next.size < most) next.add(id)
    }
    chosen.value = next
  }

  /** one chooses a lecture; as a range, all from the one before: of its rows, and in its weeks. */
  function one(l: Lantern, range: boolean) {
    on.value = true
    const [a, b] = [places.value.get(from.value), places.value.get(l.id)]
    if (range && a && b) {
      const [top, end] = [Math.min(a.row, b.row), Math.max(a.row, b.row)]
      const [first, last] = a.monday < b.monday ? [a.monday, b.monday] : [b.monday, a.monday]
      const inside = rows.value.slice(top, end + 1).flatMap((r) => r.lectures)
      put(
        inside.filter((x) => x.monday >= first && x.monday <= last),
        true,
      )
    } else put([l])
    from.value = l.id
  }

  const row = (r: Row) => put(r.lectures)
  const week = (monday: string) => put(rows.value.flatMap((r) => r.lectures.filter((l) => l.monday === monday)))
  function end() {
    on.value = false
    chosen.value = new Set()
    from.value = ''
  }
  return {
    on,
    list,
    full: computed(() => chosen.value.size >= most),
    has: (id: string) => chosen.value.has(id),
    one,
    row,
    week,
    end,
  }
}
