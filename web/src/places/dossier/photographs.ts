// A photograph on its way: its file first, then what is said of it.
import { API } from '../../kit/base'
import { PHOTOGRAPHS } from '../../api/kept'
import type { FileView } from '../../api/kept'
import { sendFile } from '../../api/send'

export async function sendPhotograph(unit: number, file: Blob, name: string, place = ''): Promise<void> {
  const kept = await sendFile<FileView>(`${API}/files`, file, name, () => {}).done
  await PHOTOGRAPHS.add(unit, { file: kept.sha256, caption: '', place, markers: [] })
}
