// Sends a file with progress, which fetch does not tell.
import { ApiError } from './client'

export interface Sending<T> {
  done: Promise<T>
  stop: () => void
}

/** Send a file to a call that takes it as it is, under its name. */
export function sendFile<T>(call: string, file: Blob, name: string, progress: (share: number) => void): Sending<T> {
  const request = new XMLHttpRequest()
  const done = new Promise<T>((resolve, reject) => {
    const failed = (what: string, todo: string) => reject(new ApiError({ code: 'upload', what, todo, field: 'file' }))
    request.upload.onprogress = (event) => progress(event.lengthComputable ? event.loaded / event.total : 0)
    request.onload = () => {
      try {
        const answer = JSON.parse(request.responseText)
        if (request.status === 201) resolve(answer as T)
        else reject(new ApiError(answer))
      } catch {
        failed('The server did not take the file.', 'Try again.')
      }
    }
    request.onerror = () => failed('The file could not be sent.', 'Check that the server runs and try again.')
    request.onabort = () => failed('Sending was stopped.', 'Nothing was kept.')
    request.open('POST', `${call}?name=${encodeURIComponent(name)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.send(file)
  })
  return { done, stop: () => request.abort() }
}
