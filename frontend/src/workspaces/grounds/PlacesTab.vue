<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { useElementSize } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api } from '@/api/client'
import { coordinateWords } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { upload } from '@/composables/useFiles'
import { usePlaces, type Place } from '@/composables/useRecords'
import PlaceEditor from '@/editors/PlaceEditor.vue'
import WorldOutline from '@/instruments/WorldOutline.vue'
import FilesSheet from '@/parts/FilesSheet.vue'
import NothingHere from '@/parts/NothingHere.vue'

/** All places, on a world outline and as a list; files in and out. */
const { data: places } = usePlaces()
const { spot, change } = useContext()
const queries = useQueryClient()
const files = ref(false)
const editing = ref<{ record: Place | null } | null>(null)
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const items = computed(() => places.value?.items ?? [])
const words = (place: Place) => coordinateWords(place.latitude_deg, place.longitude_deg, 3, '°')
const file = (form: 'gpx' | 'geojson') => () =>
  answer(api.GET('/api/places/file/{form}', { params: { path: { form } } }))
const OUT = [
  { label: 'As GPX waypoints', fetch: file('gpx') },
  { label: 'As GeoJSON', fetch: file('geojson') },
]
const IN_HINT = [
  'GPX waypoints or GeoJSON points, up to 1 MB and 2,000 of them.',
  'The time zone is found from the coordinates; the sky is taken as 21 until you say better.',
].join(' ')
</script>

<template>
  <section class="places">
    <div class="acts">
      <Button type="primary" @click="editing = { record: null }">New place</Button
      ><Button @click="files = true">Files in and out</Button>
    </div>
    <div ref="box" class="map panel">
      <WorldOutline :places="items" :width="Math.min(Math.max(width - 24, 300), 620)" />
    </div>
    <NothingHere
      v-if="places && !items.length"
      words="No place yet. Paste a coordinate under “New place”, or bring a GPX file." />
    <table v-else>
      <thead>
        <tr>
          <th scope="col">Place</th>
          <th scope="col">Where</th>
          <th scope="col">Sky</th>
          <th scope="col">Time zone</th>
          <th scope="col">Spots</th>
          <th scope="col"><span class="unseen">Acts</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="place in items" :key="place.id">
          <th scope="row">
            <b>{{ place.name }}</b><small v-if="place.access" class="muted">{{ place.access }}</small>
          </th>
          <td class="number">
            {{ words(place)
            }}<small class="muted">{{
              place.height_m === null ? 'elevation not known' : `${Math.round(place.height_m)} m`
            }}</small>
          </td>
          <td class="number">{{ place.sky_mag.toFixed(2) }} <small class="muted">mag/arcsec²</small></td>
          <td>{{ place.time_zone }}</td>
          <td>
            <button
              v-for="one in place.spots"
              :key="one.id"
              type="button"
              class="plain stand"
              :aria-pressed="one.id === spot"
              @click="change({ spot: one.id })">
              {{ one.name }}
            </button>
          </td>
          <td>
            <Button size="small" :aria-label="`Change ${place.name}`" @click="editing = { record: place }"
              >Change</Button
            >
          </td>
        </tr>
      </tbody>
    </table>
    <PlaceEditor
      :open="editing !== null"
      :record="editing?.record ?? null"
      @close="editing = null"
      @kept="
        (place) => {
          if (place.spots[0] && !editing?.record) change({ spot: place.spots[0].id })
        }
      " />
    <FilesSheet
      :open="files"
      title="Places: files in and out"
      noun="places"
      accept=".gpx,.geojson,.json"
      :out="OUT"
      out-hint="GPX waypoints for a navigator; GeoJSON keeps spots and horizon profiles too."
      :in-hint="IN_HINT"
      :take="(given) => answer(api.POST('/api/places/file', upload(given)))"
      :remove="(id) => answer(api.DELETE('/api/places/{record_id}', { params: { path: { record_id: id } } }))"
      :changed="() => queries.invalidateQueries()"
      @close="files = false" />
  </section>
</template>

<style scoped>
.places {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.map {
  padding: 10px;
  display: flex;
  justify-content: center;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 6px 12px 6px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
  vertical-align: top;
}
thead th {
  font-weight: 600;
  color: var(--muted);
  font-size: 13px;
}
th small,
td small {
  display: block;
  font-size: 12px;
}
.stand {
  display: block;
  min-height: 24px;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.stand[aria-pressed='true'] {
  color: var(--accent);
  font-weight: 600;
}
</style>
