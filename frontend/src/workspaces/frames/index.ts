/** What the router shows; it comes as one file when the workspace is visited. */
export { default as FramesPage } from './FramesPage.vue'
