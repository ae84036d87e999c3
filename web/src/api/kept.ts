// What is kept with models and units: every kind has the same five calls.
import { API } from '../kit/base'
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue } from 'vue'
import type { MaybeRefOrGetter } from 'vue'
import client, { answered } from './client'
import type { components } from './generated'
import type { VersionView } from './types'

type Schemas = components['schemas']
export type RevisionView = Schemas['KeptView_RevisionEntry_']
export type LotView = Schemas['KeptView_LotEntry_']
export type DocumentView = Schemas['KeptView_DocumentEntry_']
export type InsideView = Schemas['KeptView_InsideEntry_']
export type PhotographView = Schemas['KeptView_PhotographEntry_']
export type AuditPlanView = Schemas['KeptView_AuditPlanEntry_']
export type ListeningView = Schemas['ListeningView']
export type FileView = Schemas['FileView']
export type WireView = Schemas['WireView']
export type AnyKept = { id: number; number: number; title: string; entry: object; closed: boolean }

/** The paths are alike for every kind, which the types of single calls cannot say. */
type Call = (path: string, init?: object) => Promise<{ data?: unknown; error?: unknown }>
const loose = client as unknown as Record<'GET' | 'POST' | 'PUT', Call>

export interface KeptKind<V extends AnyKept> {
  /** As the address names them, and as the audit chain names one. */
  many: string
  word: string
  list: (of: number) => Promise<V[]>
  add: (of: number, entry: V['entry']) => Promise<V>
  change: (id: number, seen: number, entry: V['entry']) => Promise<V>
  close: (id: number, closed: boolean) => Promise<V>
  versions: (id: number) => Promise<VersionView[]>
}

function kindOf<V extends AnyKept>(of: 'model' | 'unit', many: string, word: string): KeptKind<V> {
  const all = (id: number) => `/api/${of}s/${id}/${many}`
  const one = (id: number) => `/api/${many}/${id}`
  const as = <T>(call: Promise<{ data?: unknown; error?: unknown }>) =>
    answered(call as Promise<{ data?: T; error?: unknown }>)
  return {
    many,
    word,
    list: (id) => as(loose.GET(all(id))),
    add: (id, entry) => as(loose.POST(all(id), { body: entry })),
    change: (id, seen, entry) => as(loose.PUT(one(id), { body: entry, params: { header: { 'If-Match': `${seen}` } } })),
    close: (id, closed) => as(loose.POST(`${one(id)}/closed`, { body: { closed } })),
    versions: (id) => as(loose.GET(`${one(id)}/versions`)),
  }
}

export const REVISIONS = kindOf<RevisionView>('model', 'revisions', 'revision')
export const LOTS = kindOf<LotView>('model', 'lots', 'lot')
export const DOCUMENTS = kindOf<DocumentView>('model', 'documents', 'document')
export const INSIDES = kindOf<InsideView>('unit', 'insides', 'inside')
export const PHOTOGRAPHS = kindOf<PhotographView>('unit', 'photographs', 'photograph')
export const AUDIT_PLANS = kindOf<AuditPlanView>('model', 'audit-plans', 'audit_plan')
export const LISTENING = kindOf<ListeningView>('unit', 'listening', 'listening')

/** Everything of a kind that is kept with a model or a unit; `open` leaves out what is closed. */
export function useKept<V extends AnyKept>(kind: KeptKind<V>, of: MaybeRefOrGetter<number>) {
  const query = useQuery({
    queryKey: ['kept', kind.many, of],
    queryFn: () => kind.list(toValue(of)),
  })
  const open = computed(() => (query.data.value as V[] | undefined)?.filter((one) => !one.closed) ?? [])
  const closed = computed(() => (query.data.value as V[] | undefined)?.filter((one) => one.closed) ?? [])
  return { ...query, open, closed }
}

/** Where a file is; `small` for the small one of a picture. */
export const fileAt = (sha256: string, small = false) => `${API}/files/${sha256}${small ? '/small' : ''}`
