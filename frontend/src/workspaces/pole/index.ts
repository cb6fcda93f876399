/** What the router shows; it comes as one file when the workspace is visited. */
export { default as DriftTab } from './DriftTab.vue'
export { default as NeedTab } from './NeedTab.vue'
export { default as PhotographsTab } from './PhotographsTab.vue'
export { default as PolePage } from './PolePage.vue'
export { default as RecordTab } from './RecordTab.vue'
export { default as RoughTab } from './RoughTab.vue'
export { default as ScopeTab } from './ScopeTab.vue'
