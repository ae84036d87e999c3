import { ref, watch } from 'vue'

export type Rule = 'guarded' | 'simple'
const KEY = 'rulvek.rule'
const rule = ref<Rule>(localStorage.getItem(KEY) === 'simple' ? 'simple' : 'guarded')
watch(rule, (now) => localStorage.setItem(KEY, now))

/** By which decision rule verdicts are given on this browser: guarded as ILAC-G8 has it, or simple acceptance. */
export const useRule = () => rule
