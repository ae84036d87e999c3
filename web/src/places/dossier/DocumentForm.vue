<script setup lang="ts">
// A paper that states figures, with its own file.
import { DOCUMENTS } from '../../api/kept'
import type { DocumentView } from '../../api/kept'
import DateField from '../../kit/DateField.vue'
import FileButton from '../../kit/FileButton.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import TextField from '../../kit/TextField.vue'
import { useSentFile } from '../../trade/sentFile'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

type Entry = DocumentView['entry']
const props = defineProps<{ model: number; kept?: DocumentView | null }>()
const emit = defineEmits<{ close: [] }>()
const KINDS = (['manual', 'carton', 'web page', 'print on the unit', 'catalogue', 'other'] as const).map((value) => ({
  value,
  label: value,
}))
const BLANK = {
  name: '',
  kind: 'manual' as Entry['kind'],
  revision: '',
  dated: null as string | null,
  language: '',
  file: null as string | null,
}
const form = useKeptForm(
  {
    kind: DOCUMENTS,
    of: props.model,
    kept: props.kept,
    blank: BLANK,
    toDraft: (entry) => ({ ...BLANK, ...entry, dated: entry.dated ?? null, file: entry.file ?? null }),
    toEntry: (draft) => draft,
  },
  () => emit('close'),
)
const { draft, says } = form
const { file, words } = useSentFile(
  () => !!draft.value.file,
  (sha256) => (draft.value.file = sha256),
)
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept ? 'Change the document' : 'Add a document'"
    :act="kept ? 'Keep the change' : 'Add the document'"
    hint="Claims go by its name: it keeps it once a claim does."
    :ready="!!draft.name.trim() && !file.pending.value"
    @close="emit('close')"
  >
    <TextField
      v-model="draft.name"
      class="wide"
      label="Name"
      :max="200"
      placeholder="Owner's manual, revision C"
      :problem="says('name')"
    />
    <PickOne v-model="draft.kind" label="Kind" :choices="KINDS" />
    <TextField v-model="draft.revision" label="Revision" :max="80" :problem="says('revision')" />
    <DateField v-model="draft.dated" label="Dated" :problem="says('dated')" />
    <TextField v-model="draft.language" label="Language" :max="80" placeholder="English" />
    <div class="wide">
      <FileButton
        label="Its file"
        accept="application/pdf,image/*"
        :disabled="file.pending.value"
        @files="file.act($event[0]!)"
      />
      <span class="quiet" role="status"> {{ words }}</span>
    </div>
    <ProblemNote v-if="file.problem.value" class="wide" :error="file.problem.value" />
  </KeptDialog>
</template>
