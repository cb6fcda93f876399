/** Where this device is, as its browser tells it: asked for once, when a person wants it. */
import { ref } from 'vue'

export interface Whereabouts {
  latitude_deg: number
  longitude_deg: number
  /** Metres, to the nearest ten: satellites measure it above an ellipsoid and not above the sea. None where it is not told. */
  height_m: number | null
}

const WAIT_MS = 20_000
const WHY: Record<number, string> = {
  1: 'The browser may not tell where you are; allow it for this page, or paste the coordinates.',
  2: 'This device does not know where it is just now; paste the coordinates.',
  3: 'This device took too long to find where it is; try again outdoors, or paste the coordinates.',
}
const NOT_HERE = 'This browser tells no position to a page without HTTPS; paste the coordinates.'

export function useWhereabouts() {
  const looking = ref(false)
  const trouble = ref('')

  /** None where it is not told; why stands in `trouble`. */
  async function find(): Promise<Whereabouts | null> {
    trouble.value = ''
    if (!window.isSecureContext || !('geolocation' in navigator)) {
      trouble.value = NOT_HERE
      return null
    }
    looking.value = true
    try {
      const { coords } = await new Promise<GeolocationPosition>((done, failed) =>
        navigator.geolocation.getCurrentPosition(done, failed, { enableHighAccuracy: true, timeout: WAIT_MS }),
      )
      return {
        latitude_deg: Number(coords.latitude.toFixed(4)),
        longitude_deg: Number(coords.longitude.toFixed(4)),
        height_m: coords.altitude === null ? null : Math.round(coords.altitude / 10) * 10,
      }
    } catch (failed) {
      trouble.value = WHY[(failed as GeolocationPositionError).code] ?? WHY[2] ?? ''
      return null
    } finally {
      looking.value = false
    }
  }
  return { looking, trouble, find }
}
