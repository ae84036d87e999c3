// Sends a file with progress, which fetch does not tell.
import { ApiError } from '../../api/client'
import type { RecordingView } from '../../api/types'

export interface Sending {
  done: Promise<RecordingView>
  stop: () => void
}

export function send(file: File, progress: (share: number) => void): Sending {
  const request = new XMLHttpRequest()
  const done = new Promise<RecordingView>((resolve, reject) => {
    const failed = (what: string, todo: string) => reject(new ApiError({ code: 'upload', what, todo, field: 'file' }))
    request.upload.onprogress = (event) => progress(event.lengthComputable ? event.loaded / event.total : 0)
    request.onload = () => {
      try {
        const answer = JSON.parse(request.responseText)
        if (request.status === 201) resolve(answer as RecordingView)
        else reject(new ApiError(answer))
      } catch {
        failed('The server did not take the file.', 'Try again.')
      }
    }
    request.onerror = () => failed('The file could not be sent.', 'Check that the server runs and try again.')
    request.onabort = () => failed('Sending was stopped.', 'Nothing was kept.')
    request.open('POST', `/api/recordings?name=${encodeURIComponent(file.name)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.send(file)
  })
  return { done, stop: () => request.abort() }
}
