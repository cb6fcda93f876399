/** What the router shows; it comes as one file when the workspace is visited. */
export { default as MyNightsPage } from './MyNightsPage.vue'
export { default as NightPage } from './NightPage.vue'
