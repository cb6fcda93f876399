/** What the router shows; it comes as one file when the workspace is visited. */
export { default as ChartTab } from './ChartTab.vue'
export { default as FramingPage } from './FramingPage.vue'
export { default as PanelsTab } from './PanelsTab.vue'
export { default as WayTab } from './WayTab.vue'
