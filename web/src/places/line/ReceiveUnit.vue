<script setup lang="ts">
// Receives a unit, as on a tablet at the goods entrance: fields, photographs by the camera, and all of it kept on this
// device until the server has it.
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useModel } from '../../api/queries'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import DraftNote from '../../kit/DraftNote.vue'
import FileButton from '../../kit/FileButton.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { problemOf, saysOf } from '../../kit/problem'
import { cleared, putAway, takenFrom } from '../../kit/shelf'
import { sendPhotograph } from '../dossier/photographs'
import UnitFields from './UnitFields.vue'
import { BLANK_UNIT, unitOf } from './unitDraft'

const props = defineProps<{ id: number }>()
const router = useRouter()
const mayMeasure = useMay('measure')
const { data: model, error, isPending, refetch } = useModel(() => props.id)
const kept = useDraft(`rulvek.receive.${props.id}`, { ...BLANK_UNIT, made: null as number | null })
const { draft } = kept

/** Photographs that wait, each with an address by which the page shows it. */
interface Waiting {
  file: Blob
  name: string
}
const shelf = `receive.${props.id}`
const photographs = ref<(Waiting & { shown: string })[]>([])
const onShelf = () =>
  putAway(
    shelf,
    photographs.value.map(({ file, name }) => ({ file, name })),
  ).catch(() => undefined)
const shownAs = (one: Waiting) => ({ ...one, shown: URL.createObjectURL(one.file) })
onMounted(async () => {
  photographs.value.push(...((await takenFrom<Waiting[]>(shelf)) ?? []).map(shownAs))
})
const form = ref<HTMLFormElement>()
watch(form, (now) => now?.querySelector('input')?.focus())
onUnmounted(() => photographs.value.forEach((one) => URL.revokeObjectURL(one.shown)))
function choose(files: File[]) {
  photographs.value.push(...files.map((file) => shownAs({ file, name: file.name })))
  void onShelf()
}
function drop(at: number) {
  URL.revokeObjectURL(photographs.value.splice(at, 1)[0]!.shown)
  void onShelf()
}

const { act, pending, problem } = useAct(
  async () => {
    // What was sent before the server went away is not sent again.
    draft.value.made ??= (
      await answered(
        client.POST('/api/models/{model_id}/units', {
          params: { path: { model_id: props.id } },
          body: unitOf(draft.value),
        }),
      )
    ).id
    while (photographs.value.length) {
      const next = photographs.value[0]!
      await sendPhotograph(draft.value.made, next.file, next.name)
      URL.revokeObjectURL(photographs.value.shift()!.shown)
      await onShelf()
    }
    return draft.value.made
  },
  {
    takesLong: true,
    done: async (unit) => {
      kept.forget()
      await cleared(shelf)
      await router.push(`/units/${unit}`)
    },
  },
)
const isAway = computed(
  () => !!problem.value && ['unreachable', 'upload'].includes(problemOf(problem.value).code ?? ''),
)
/** Once asked for, it is sent as soon as the server answers, for as long as this page is open. */
const AGAIN_MS = 3000
let again: ReturnType<typeof setTimeout> | undefined
watch([problem, isAway], () => {
  clearTimeout(again)
  if (isAway.value) again = setTimeout(() => void act(), AGAIN_MS)
})
onUnmounted(() => clearTimeout(again))
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <PageFrame
    title="Receive a unit"
    :trail="
      model
        ? [
            { name: 'Line', to: '/line' },
            { name: model.series_name },
            { name: model.name, to: `/models/${id}` },
            { name: 'Receive a unit' },
          ]
        : []
    "
    :pending="isPending && !draft.serial"
    :error="draft.serial ? null : error"
    @retry="refetch"
  />
  <form v-if="model || draft.serial" ref="form" class="receive" @submit.prevent="act()">
    <h1>Receive a unit of {{ model?.name ?? 'this model' }}</h1>
    <p class="quiet">What is typed and photographed stays on this device until the server has it.</p>
    <DraftNote :draft="kept" />
    <UnitFields v-model="draft" :model="id" :says="says" />
    <fieldset class="photographs">
      <legend>Photographs</legend>
      <ul>
        <li v-for="(one, at) in photographs" :key="one.shown">
          <img :src="one.shown" :alt="`Photograph ${at + 1}, ${one.name}`" />
          <a-button size="small" type="text" @click="drop(at)">Drop {{ at + 1 }}</a-button>
        </li>
      </ul>
      <FileButton label="Take or choose photographs" accept="image/*" camera multiple @files="choose" />
    </fieldset>
    <p v-if="isAway" class="caution" role="status">
      The server does not answer. All of it is kept on this device, and sent as soon as the server is back.
    </p>
    <ProblemNote v-else-if="problem" :error="problem" />
    <a-button
      type="primary"
      size="large"
      html-type="submit"
      :loading="pending"
      :disabled="!draft.serial.trim() || !mayMeasure"
      >Receive the unit</a-button
    >
  </form>
</template>

<style scoped>
.receive {
  max-width: 760px;
}
.photographs {
  margin: 14px 0;
  padding: 0;
  border: none;
}
.photographs ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 10px;
  margin: 6px 0;
  padding: 0;
  list-style: none;
}
.photographs img {
  width: 100%;
  aspect-ratio: 4 / 3;
  object-fit: cover;
}
legend {
  padding: 0;
  font-size: 14px;
  font-weight: 600;
}
.caution {
  margin: 10px 0;
}
</style>
