<script setup lang="ts">
// A rating as one reads it before signing: what is promised, on what it rests, what changed, what unsettles it.
import { API } from '../../kit/base'
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import PageFrame from '../../kit/PageFrame.vue'
import PrintTexts from './PrintTexts.vue'
import RatingActs from './RatingActs.vue'
import RatingBasis from './RatingBasis.vue'
import RatingHead from './RatingHead.vue'
import RatingLinks from './RatingLinks.vue'
import RatingSheet from './RatingSheet.vue'

const DraftForm = defineAsyncComponent(() => import('./DraftForm.vue'))
const props = defineProps<{ id: number }>()
const {
  data: rating,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['rating', () => props.id],
  queryFn: () => answered(client.GET('/api/ratings/{rating_id}', { params: { path: { rating_id: props.id } } })),
})
const changing = ref(false)
const name = computed(() => (rating.value ? `Rating ${rating.value.id}, ${rating.value.model}` : ''))
const mayPublish = useMay('publish')
const SAYS = { more: 'more than is rated', same: 'as rated', less: 'less than is rated' } as const
</script>

<template>
  <PageFrame
    :title="name"
    :trail="
      rating
        ? [
            { name: 'Ratings', to: '/ratings' },
            { name: rating.model, to: `/models/${rating.model_id}` },
            { name: `Rating ${rating.id}` },
          ]
        : []
    "
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template v-if="rating">
      <RatingHead :rating="rating" />
      <div class="sheet">
        <RatingSheet :rating="rating" />
        <aside>
          <section v-if="rating.sent_back" class="told" role="status">
            <h2>Sent back</h2>
            <p>{{ rating.sent_back.by }}: {{ rating.sent_back.reason }}</p>
          </section>
          <RatingActs :rating="rating" @change="changing = true" />
          <section v-if="rating.since_sent_back && rating.state === 'proposed'" class="told">
            <h2>Since it was sent back</h2>
            <p class="quiet">{{ rating.since_sent_back.by }}: “{{ rating.since_sent_back.reason }}”</p>
            <ul v-if="rating.since_sent_back.changes.length">
              <li v-for="one in rating.since_sent_back.changes" :key="one">{{ one }}</li>
            </ul>
            <p v-else class="same">Nothing is other than it was then.</p>
          </section>
          <section v-if="rating.before_id">
            <h2>
              Since <RouterLink :to="`/ratings/${rating.before_id}`">rating {{ rating.before_id }}</RouterLink>
            </h2>
            <ul v-if="rating.changes.length">
              <li v-for="one in rating.changes" :key="one">{{ one }}</li>
            </ul>
            <p v-else class="quiet">
              {{ rating.basis ? 'Nothing is other than there.' : 'Said once it is proposed.' }}
            </p>
          </section>
          <section>
            <h2>Where it is printed</h2>
            <ul v-if="rating.printed.length">
              <li v-for="one in rating.printed" :key="one.claim_id" :class="one.says">
                {{ one.document }}<template v-if="one.stands_at">, {{ one.stands_at }}</template
                >: <span class="mono">{{ one.watts }} W</span>
                <span :class="one.says === 'more' ? 'over' : 'quiet'">, {{ SAYS[one.says] }}</span>
              </li>
            </ul>
            <p v-else class="quiet">No document states a figure at these conditions.</p>
            <RouterLink v-if="rating.printed.length" class="small" :to="`/models/${rating.model_id}#documents`"
              >Its documents and claims</RouterLink
            >
          </section>
          <PrintTexts v-if="rating.state === 'published'" :id="rating.id" />
          <RatingLinks v-if="mayPublish && rating.showable" :id="rating.id" />
          <RatingBasis
            :rating="rating"
            :files="{
              pdf: `${API}/ratings/${rating.id}/dossier.pdf`,
              zip: `${API}/ratings/${rating.id}/dossier.zip`,
              certificate: `${API}/signing-certificate`,
            }"
          />
        </aside>
      </div>
      <DraftForm
        v-if="changing"
        open
        :model="rating.model_id"
        :drafted="{ ...rating.terms, left_out: rating.terms.left_out.map((one) => one.unit_id) }"
        :rows="rating.population.rows"
        :known="rating"
        @close="changing = false"
      />
    </template>
  </PageFrame>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.over {
  color: var(--danger);
  font-weight: 600;
}
.told {
  border-left: 3px solid var(--doubt);
  padding: 8px 12px;
  margin-top: 14px;
  background: var(--sheet);
}
.same {
  font-weight: 600;
}
.small {
  font-size: 13px;
}
</style>
