/** Whether the page is being printed; what is drawn by hand is drawn anew before the browser takes the page, and after. */
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

export function usePrinting(draw: () => void) {
  const printing = ref(false)
  const turn = (now: boolean) => () => {
    printing.value = now
    draw()
  }
  useEventListener(window, 'beforeprint', turn(true))
  useEventListener(window, 'afterprint', turn(false))
  return printing
}
