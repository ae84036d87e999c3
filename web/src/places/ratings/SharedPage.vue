<script setup lang="ts">
// A rating as somebody without an account reads it by a link: what is promised, on what it rests, whether it still holds.
import { API } from '../../kit/base'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import PageFrame from '../../kit/PageFrame.vue'
import { day } from '../../trade/format'
import RatingBasis from './RatingBasis.vue'
import RatingHead from './RatingHead.vue'
import RatingSheet from './RatingSheet.vue'

const props = defineProps<{ token: string }>()
const {
  data: shared,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['shared', () => props.token],
  retry: false,
  queryFn: () => answered(client.GET('/api/shared/{token}', { params: { path: { token: props.token } } })),
})
/** What must not be overlooked: that it does not hold any more. */
const over = computed(() => {
  const rating = shared.value?.rating
  const why = rating?.steps.at(-1)?.reason
  if (rating?.state === 'withdrawn') return `This figure was withdrawn${why ? `: ${why}` : '.'}`
  return rating?.state === 'superseded' ? 'Another figure took the place of this one.' : ''
})
</script>

<template>
  <PageFrame
    :title="shared ? `${shared.rating.terms.watts} W, ${shared.rating.model}` : 'A rating'"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head>
      <p class="quiet by">
        Rulvek{{ shared?.lab ? `, ${shared.lab}` : '' }}
        <span v-if="shared" class="until">You can look until {{ day(shared.until) }}.</span>
      </p>
    </template>
    <template v-if="shared">
      <RatingHead :rating="shared.rating" />
      <p v-if="over" class="over" role="status">{{ over }}</p>
      <div class="sheet">
        <RatingSheet :rating="shared.rating" shared />
        <aside>
          <section v-if="shared.rating.unsettled.length">
            <h2>What is being looked at again</h2>
            <ul>
              <li v-for="one in shared.rating.unsettled" :key="one.key">{{ one.what }}</li>
            </ul>
          </section>
          <RatingBasis
            :rating="shared.rating"
            :files="{
              pdf: `${API}/shared/${token}/dossier.pdf`,
              ...(shared.with_records && { zip: `${API}/shared/${token}/dossier.zip` }),
            }"
          />
        </aside>
      </div>
    </template>
  </PageFrame>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.by {
  display: flex;
  justify-content: space-between;
  margin: 0 0 14px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--rule);
}
.over {
  margin: 6px 0;
  padding: 8px 12px;
  font-weight: 600;
  color: var(--danger);
  background: var(--sheet);
  border-left: 3px solid var(--danger);
}
</style>
