<script setup lang="ts">
/** What this is made of. The same list with licences stands in docs/credits.md. */
const CREDITS = [
  ['ERFA, through pyerfa', 'positions of stars, Sun and Moon (IAU SOFA collection); BSD licence'],
  ['Hipparcos, the new reduction', 'places of the stars near the poles; van Leeuwen 2007, VizieR I/311, ESA'],
  ['World Magnetic Model 2025', 'where a compass points; NOAA/NCEI and British Geological Survey, through pygeomag'],
  ['Time zone outlines', '© OpenStreetMap contributors, ODbL 1.0, through timezonefinder'],
  ['pint', 'units; BSD licence'],
  ['NumPy', 'array arithmetic; BSD licence'],
  ['Django, Django Ninja, PostgreSQL', 'records and server; BSD, MIT and PostgreSQL licences'],
  ['Vue, Ant Design Vue, D3', 'pages and drawings; MIT and ISC licences'],
  ['Atkinson Hyperlegible Next and Mono', 'type; Braille Institute of America, SIL Open Font Licence'],
] as const
</script>

<template>
  <main class="page">
    <h1>About Wide Dusk</h1>
    <p>Every figure here shows its working: press one with a dotted line. What is published is named with its source; what is common practice or from memory says so.</p>
    <p>The app advises. Local rules, and licensed professionals where their trade is touched, decide.</p>
    <h2>Made with</h2>
    <dl><template v-for="[name, what] in CREDITS" :key="name"><dt>{{ name }}</dt><dd>{{ what }}</dd></template></dl>
  </main>
</template>

<style scoped>
.page { padding: 16px 24px; max-width: 760px; display: flex; flex-direction: column; gap: 12px; }
h1 { font-size: 22px; }
dl { display: grid; grid-template-columns: 260px 1fr; gap: 6px 16px; margin: 0; }
dd { margin: 0; color: var(--muted); }
</style>
