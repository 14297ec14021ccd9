import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type Ref } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export type Rule = Schemas['RuleText']
/** What a right lets people do, and from when to when: of a rule and of an opening alike. */
export type Right = Omit<Rule, 'audience' | 'groups'>
export type Use = Right['uses'][number]

/** What a rule is about: a course or, with a recording, that one alone as the course has it; '' is the college. */
export interface RuleScope {
  course: string
  recording?: string
}
const ofRule = (s: RuleScope) => ({
  params: { path: { course: s.course }, query: s.recording ? { recording: s.recording } : {} },
})

export const useRule = (scope: () => RuleScope) =>
  get(
    () => keys.rule(scope().course, scope().recording),
    () => {
      const s = scope()
      return s.course ? ask((c) => c.GET('/api/courses/{course}/rule', ofRule(s))) : ask((c) => c.GET('/api/rule'))
    },
  )

/** useRuleHistory is what was changed of who may watch, read when it is looked at. */
export const useRuleHistory = (scope: () => RuleScope, on: Ref<boolean>) =>
  useInfiniteQuery({
    queryKey: computed(() => keys.ruleHistory(scope().course, scope().recording)),
    queryFn: ({ pageParam }) => {
      const { path, query } = ofRule(scope()).params
      return ask((c) =>
        c.GET('/api/courses/{course}/rule/history', {
          params: { path, query: { ...query, before: pageParam || undefined } },
        }),
      )
    },
    initialPageParam: '',
    getNextPageParam: (last) => last.before,
    enabled: on,
  })

export const previewRule = (scope: RuleScope, rule: Rule) =>
  scope.course
    ? ask((c) => c.POST('/api/courses/{course}/rule/preview', { ...ofRule(scope), body: rule }))
    : ask((c) => c.POST('/api/rule/preview', { body: rule }))

function keepRule(scope: RuleScope, rule: Rule | undefined, seen: string) {
  if (!scope.course) {
    const at = { params: { query: { seen } } }
    return rule ? ask((c) => c.PUT('/api/rule', { ...at, body: rule })) : ask((c) => c.DELETE('/api/rule', at))
  }
  const { path, query } = ofRule(scope).params
  const at = { params: { path, query: { ...query, seen } } }
  return rule
    ? ask((c) => c.PUT('/api/courses/{course}/rule', { ...at, body: rule }))
    : ask((c) => c.DELETE('/api/courses/{course}/rule', at))
}

/** useRuleChange keeps a rule, or takes it away when there is none. */
export function useRuleChange(scope: () => RuleScope) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ rule, seen }: { rule: Rule | undefined; seen: string }) => keepRule(scope(), rule, seen),
    onSuccess: (page) => {
      client.setQueryData(keys.rule(scope().course, scope().recording), page)
      void client.invalidateQueries()
    },
  })
}

export type Shut = Schemas['ShutInputBody']

export const useShuts = (course: ID) =>
  get(
    () => keys.shuts(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/shut-outs', of.course(course))),
  )

export const previewShut = (course: string, person: string, recording?: string) =>
  ask((c) =>
    c.GET('/api/courses/{course}/shut-outs/preview', {
      params: { path: { course }, query: recording ? { person, recording } : { person } },
    }),
  )

export type ShutChange = { do: 'out'; shut: Shut } | { do: 'in' | 'again'; id: string }

function changeShut(course: string, x: ShutChange) {
  if (x.do === 'out')
    return ask((c) => c.POST('/api/courses/{course}/shut-outs', { ...of.course(course), body: x.shut }))
  const at = { params: { path: { course, shut: x.id } } }
  return x.do === 'in'
    ? ask((c) => c.DELETE('/api/courses/{course}/shut-outs/{shut}', at))
    : ask((c) => c.POST('/api/courses/{course}/shut-outs/{shut}/bring-back', at))
}

/** useShutChange shuts someone out, or lets them in again: what they may see changes everywhere. */
export function useShutChange(course: () => string) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (x: ShutChange) => changeShut(course(), x),
    onSuccess: (page) => {
      client.setQueryData(keys.shuts(course()), page)
      void client.invalidateQueries()
    },
  })
}
