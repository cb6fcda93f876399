/** What the router shows; it comes as one file when the workspace is visited. */
export { default as LanesTab } from './LanesTab.vue'
export { default as NightsPage } from './NightsPage.vue'
export { default as SuitsTab } from './SuitsTab.vue'
export { default as TargetsTab } from './TargetsTab.vue'
export { default as TripsTab } from './TripsTab.vue'
export { default as WholeTab } from './WholeTab.vue'
export { default as YearTab } from './YearTab.vue'
