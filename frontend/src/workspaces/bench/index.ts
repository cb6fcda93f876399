/** What the router shows; it comes as one file when the workspace is visited. */
export { default as BenchPage } from './BenchPage.vue'
export { default as CompareTab } from './CompareTab.vue'
export { default as PackingTab } from './PackingTab.vue'
export { default as PartsTab } from './PartsTab.vue'
export { default as PowerTab } from './PowerTab.vue'
export { default as RigTab } from './RigTab.vue'
