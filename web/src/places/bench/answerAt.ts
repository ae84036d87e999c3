// What is said to a bench that asks.
import client, { answered } from '../../api/client'

/** Sends answers to the questions of a bench. */
export function answerAt(bench: number | undefined) {
  return (question: number, value: number | null) =>
    answered(client.POST('/api/bench/answers', { params: { query: { bench } }, body: { question, value } }))
}
