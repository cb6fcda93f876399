/** What the router shows; it comes as one file when the workspace is visited. */
export { default as GroundsPage } from './GroundsPage.vue'
export { default as PlacesTab } from './PlacesTab.vue'
export { default as SpotTab } from './SpotTab.vue'
export { default as SpotsTab } from './SpotsTab.vue'
