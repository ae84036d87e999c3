// A file that is sent while a form is filled in: the record it belongs to names it by its hash.
import { computed, ref } from 'vue'
import type { FileView } from '../api/kept'
import { sendFile } from '../api/send'
import { useAct } from '../kit/act'
import { API } from '../kit/base'

/**
 * @param has whether the form has a file already
 * @param take puts the hash of what was sent into the form
 */
export function useSentFile(has: () => boolean, take: (sha256: string) => void) {
  const sent = ref<FileView | null>(null)
  const file = useAct((chosen: File) => sendFile<FileView>(`${API}/files`, chosen, chosen.name, () => {}).done, {
    takesLong: true,
    done: (view) => {
      sent.value = view
      take(view.sha256)
    },
  })
  const words = computed(() => {
    if (file.pending.value) return 'The file is sent …'
    if (sent.value) return `${sent.value.name} is here.`
    return has() ? 'It has a file.' : 'PDF or picture, at most 40 MB.'
  })
  return { file, words }
}
