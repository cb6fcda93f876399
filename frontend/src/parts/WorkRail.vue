<script setup lang="ts">
import { onClickOutside, onKeyStroke } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { useSession } from '@/composables/useSession'
import { useTheme } from '@/theme/useTheme'

/** In the order of the work, in groups: a rail beside the page, on a small screen a bar below it in which a group opens. */
const { session, leave } = useSession()
const { theme, next } = useTheme()
const route = useRoute()

/** Only what there is. Drawn as paths of a 24-unit square. */
const GROUPS = [
  {
    label: 'Tonight',
    drawing: 'M2 17h20M5 17c1-6 4-9 7-9s6 3 7 9M12 3v2M4 7l1.500 1.500M20 7l-1.500 1.500',
    spaces: [
      {
        name: 'tonight',
        label: 'Tonight',
        drawing: 'M2 17h20M5 17c1-6 4-9 7-9s6 3 7 9M12 3v2M4 7l1.500 1.500M20 7l-1.500 1.500',
      },
    ],
  },
  {
    label: 'Prepare',
    drawing: 'M4 7h16M4 12h10M4 17h13M20 11l-4 4-2-2',
    spaces: [
      {
        name: 'bench',
        label: 'Bench',
        drawing: 'M3 18h18M12 18v-5M5 15L18 6M7.500 10.500a2.500 2.500 0 1 0 .01 0M16.500 6a1.500 1.500 0 1 0 .01 0',
      },
      { name: 'grounds', label: 'Grounds', drawing: 'M2 18h20M3 18l4-7 3 4 4-9 4 8 3-2v6M12 21v-1' },
      { name: 'nights', label: 'Nights', drawing: 'M3 6h10M3 11h15M3 16h8M17 4l1.500 1.500M21 8h-2M14 19h7' },
      { name: 'framing', label: 'Framing', drawing: 'M4 8l12-4 4 12-12 4zM10 12h.01M14 11h.01M13 15h.01' },
    ],
  },
  {
    label: 'Align, expose',
    drawing: 'M4 20L18 6M14 4h6v6M4 12a8 8 0 0 1 8 8',
    spaces: [
      { name: 'pole', label: 'Pole', drawing: 'M4 20L18 6M15 4l5 5M18 6v.01M9 20a7 7 0 0 0-5-5M20 13a8 8 0 0 1-7 7' },
      {
        name: 'exposure',
        label: 'Exposure',
        drawing: 'M3 19h18M3 15c4 0 4-9 8-9h3c3 0 3 9 7 9M12 3v16M9 19v2M15 19v2',
      },
    ],
  },
  {
    label: 'Out there',
    drawing: 'M7 3h10v18H7zM10 18h4M10 8h4M10 11h2',
    spaces: [{ name: 'field', label: 'Field', drawing: 'M7 3h10v18H7zM10 18h4M10 8h4M10 11h2' }],
  },
  {
    label: 'Afterwards',
    drawing: 'M5 4h14v16H5zM8 9h8M8 13h8M8 17h5',
    spaces: [
      { name: 'frames', label: 'Frames', drawing: 'M4 6h10v8H4zM7 9h10v8H7zM10 12h10v8H10zM13 17l2-2 3 3' },
      { name: 'mynights', label: 'My nights', drawing: 'M5 4h14v16H5zM8 9h8M8 13h8M8 17h5' },
    ],
  },
] as const
const here = computed(() => String(route.name ?? '').split('-')[0])
/** What is chosen comes along, to My nights and About and back too. */
const way = (name: string) => ({ name, query: route.query })

/** Which group stands open; on a wide screen all of them do, by their style. */
const open = ref<string | null>(null)
const rail = ref<HTMLElement | null>(null)
const toggle = (label: string) => (open.value = open.value === label ? null : label)
onClickOutside(rail, () => (open.value = null))
onKeyStroke('Escape', () => (open.value = null))
watch(
  () => route.fullPath,
  () => (open.value = null),
)
</script>

<template>
  <nav ref="rail" class="rail" aria-label="Workspaces">
    <div
      v-for="group in GROUPS"
      :key="group.label"
      class="group"
      :class="{ open: open === group.label, single: group.spaces.length === 1 }">
      <button
        v-if="group.spaces.length > 1"
        type="button"
        class="space plain door"
        :aria-expanded="open === group.label"
        :class="{ here: group.spaces.some((one) => one.name === here) }"
        @click="toggle(group.label)">
        <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true"><path :d="group.drawing" /></svg>
        {{ group.label }}
      </button>
      <div class="spaces">
        <RouterLink
          v-for="space in group.spaces"
          :key="space.name"
          class="space"
          :to="way(space.name)"
          :aria-current="here === space.name ? 'page' : undefined">
          <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true"><path :d="space.drawing" /></svg>
          {{ space.label }}
        </RouterLink>
      </div>
    </div>
    <span class="gap" />
    <div class="group" :class="{ open: open === 'More' }">
      <button
        type="button"
        class="space plain door"
        :aria-expanded="open === 'More'"
        :class="{ here: here === 'about' || here === 'account' }"
        @click="toggle('More')">
        <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
          <path d="M5 12h.01M12 12h.01M19 12h.01" stroke-width="3" />
        </svg>
        More
      </button>
      <div class="spaces">
        <button type="button" class="space plain" :title="`Theme: ${theme}. Press to change (key t)`" @click="next">
          <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
            <path d="M12 4a8 8 0 1 0 0 16zM12 4a8 8 0 0 1 0 16" />
          </svg>
          {{ theme }}
        </button>
        <RouterLink class="space" :to="way('about')" :aria-current="here === 'about' ? 'page' : undefined">
          <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
            <path d="M12 3a9 9 0 1 0 .01 0M12 11v6M12 7.500v.5" />
          </svg>
          About
        </RouterLink>
        <RouterLink
          v-if="session?.username"
          class="space"
          :to="way('account')"
          :aria-current="here === 'account' ? 'page' : undefined">
          <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
            <path d="M12 4a4 4 0 1 0 .01 0M4 21c1-5 4-7 8-7s7 2 8 7" />
          </svg>
          Account
        </RouterLink>
        <button
          v-if="session?.username"
          type="button"
          class="space plain"
          :title="`Signed in as ${session.username}`"
          @click="leave">
          <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
            <path d="M10 4H5v16h5M14 8l4 4-4 4M18 12H9" />
          </svg>
          Sign out
        </button>
      </div>
    </div>
  </nav>
</template>

<style scoped>
.rail {
  position: sticky;
  top: 0;
  height: 100vh;
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 6px 4px;
  background: var(--panel);
  border-right: 1px solid var(--line);
  box-sizing: border-box;
  overflow-y: auto;
  z-index: 900;
}
.group + .group {
  border-top: 1px solid var(--line);
  padding-top: 4px;
}
.spaces {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.space {
  box-sizing: border-box;
  width: 100%;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  padding: 7px 2px;
  border-radius: 8px;
  font-size: 12px;
  color: var(--muted);
  text-decoration: none;
  text-align: center;
}
.space:hover {
  background: var(--raised);
  color: var(--text);
}
.space[aria-current='page'] {
  color: var(--text);
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--accent);
}
.door {
  display: none;
}
.gap {
  flex: 1;
}
svg path {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.6;
  stroke-linecap: round;
  stroke-linejoin: round;
}
/* All of it fits a laptop's screen, down to Sign out. */
@media (min-width: 821px) and (max-height: 900px) {
  .rail {
    gap: 2px;
    padding: 3px 4px;
  }
  .group + .group {
    padding-top: 2px;
  }
  .spaces {
    gap: 0;
  }
  .space {
    gap: 1px;
    padding: 4px 2px;
  }
}
@media (max-width: 820px) {
  .rail {
    position: fixed;
    inset: auto 0 0 0;
    height: auto;
    flex-direction: row;
    gap: 0;
    padding: 2px 4px calc(2px + env(safe-area-inset-bottom));
    border-right: 0;
    border-top: 1px solid var(--line);
    overflow: visible;
  }
  .group {
    flex: 1;
    position: static;
    border: 0 !important;
    padding: 0 !important;
  }
  .gap {
    display: none;
  }
  .space {
    min-height: 52px;
    padding: 4px 2px;
    justify-content: center;
  }
  .space[aria-current='page'],
  .door.here {
    color: var(--text);
    background: none;
    box-shadow: inset 0 3px 0 var(--accent);
    border-radius: 0;
  }
  .door {
    display: flex;
  }
  .group:not(.single) .spaces {
    display: none;
    position: absolute;
    left: 4px;
    right: 4px;
    bottom: 100%;
    padding: 6px;
    background: var(--raised);
    border: 1px solid var(--line);
    border-radius: 10px 10px 0 0;
  }
  .group.open .spaces {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(84px, 1fr));
  }
}
</style>
