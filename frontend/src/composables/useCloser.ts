/** A drawing wider than the page, of which a part is seen: what stands in the middle stays there as one looks closer. */
import { computed, nextTick, ref, type Ref } from 'vue'

const MAX_ZOOM = 8
const STEP = 0.6 // of what is seen at once

export function useCloser(frame: Readonly<Ref<HTMLElement | null>>) {
  const zoom = ref(1)
  const atMost = computed(() => zoom.value >= MAX_ZOOM)
  async function zoomTo(next: number) {
    const view = frame.value
    if (!view) return
    const middle = (view.scrollLeft + view.clientWidth / 2) / Math.max(view.scrollWidth, 1)
    zoom.value = Math.min(Math.max(next, 1), MAX_ZOOM)
    await nextTick()
    view.scrollLeft = middle * view.scrollWidth - view.clientWidth / 2
  }
  /** By buttons: with the pencil a finger draws. */
  function along(side: number) {
    frame.value?.scrollBy({ left: side * frame.value.clientWidth * STEP, behavior: 'smooth' })
  }
  return { zoom, atMost, zoomTo, along }
}
