import '@fontsource-variable/atkinson-hyperlegible-next'
import './field.css'

import { createApp } from 'vue'

import FieldApp from './FieldApp.vue'
import type { Pack } from './store'
import { useField } from './useField'

/** A night that is one file by itself carries its pack in the page. */
function carried(): Pack | null {
  const found = document.getElementById('pack')
  return found?.textContent ? (JSON.parse(found.textContent) as Pack) : null
}

const given = carried()
if (!given && 'serviceWorker' in navigator) void navigator.serviceWorker.register('/field/sw.js', { scope: '/field/' })
void useField()
  .begin(given)
  .then(() => createApp(FieldApp).mount('#field'))
