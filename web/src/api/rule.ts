// By which decision rule verdicts are given: the same on every page and in every tab of this browser, and in the address.
import { ref, watch } from 'vue'
import type { Router } from 'vue-router'
import type { DecisionRule } from './types'

const KEY = 'rulvek.rule'
/** The rules of ILAC-G8 by name; as stored, each campaign is judged by its own. */
export const RULES: readonly DecisionRule[] = ['as_stored', 'guarded', 'simple']
export const RULE_WORDS: Record<DecisionRule, string> = {
  as_stored: 'each campaign’s own rule',
  guarded: 'guarded rule: ± U kept free',
  simple: 'simple rule: the figure as it is',
}
const known = (text: unknown) => RULES.find((rule) => rule === text)
const rule = ref<DecisionRule>(known(localStorage.getItem(KEY)) ?? 'as_stored')
watch(rule, (now) => localStorage.setItem(KEY, now))
window.addEventListener('storage', (event) => {
  if (event.key === KEY) rule.value = known(event.newValue) ?? 'as_stored'
})

/** The rule in force. */
export const useRule = () => rule
/** As a request asks for it. */
export const ruled = () => (rule.value === 'as_stored' ? {} : { rule: rule.value })

/** Keep the rule in the address: one that names a rule sets it, every other takes it along. */
export function keepRuleInAddress(router: Router): void {
  /** What the address says, or will as soon as it is reached. */
  let inAddress: DecisionRule = 'as_stored'
  router.beforeEach((to) => {
    const named = known(to.query.rule)
    inAddress = named ?? 'as_stored'
    if (named) rule.value = named
    else if (rule.value !== 'as_stored') return { ...to, query: { ...to.query, ...ruled() }, replace: true }
  })
  watch(rule, () => {
    if (inAddress === rule.value) return
    const route = router.currentRoute.value
    void router.replace({ query: { ...route.query, rule: ruled().rule }, hash: route.hash })
  })
}
