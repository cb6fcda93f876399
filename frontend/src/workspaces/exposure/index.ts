/** What the router shows; it comes as one file when the workspace is visited. */
export { default as CameraTab } from './CameraTab.vue'
export { default as CardTab } from './CardTab.vue'
export { default as CompareTab } from './CompareTab.vue'
export { default as ExposurePage } from './ExposurePage.vue'
export { default as LightTab } from './LightTab.vue'
export { default as ManyTab } from './ManyTab.vue'
export { default as SubTab } from './SubTab.vue'
export { default as TestTab } from './TestTab.vue'
