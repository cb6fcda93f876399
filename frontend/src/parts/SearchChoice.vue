<script setup lang="ts">
import { Select, type SelectProps } from 'ant-design-vue'
import { nextTick, onMounted, onUpdated, ref } from 'vue'

/**
 * The component library's select with its roles put right: as it comes, the closed list points at elements that do not
 * exist and never says whether it is open.
 */
const props = defineProps<{
  id: string
  options: SelectProps['options']
  placeholder?: string
  frameless?: boolean
  invalid?: boolean
}>()
// eslint-disable-next-line @typescript-eslint/no-explicit-any
const value = defineModel<any>()
const box = ref<HTMLElement | null>(null)
const open = ref(false)

async function mend() {
  await nextTick()
  const input = box.value?.querySelector('input[role=combobox]')
  if (!input) return
  input.setAttribute('aria-expanded', String(open.value))
  if (props.invalid) input.setAttribute('aria-invalid', 'true')
  else input.removeAttribute('aria-invalid')
  if (open.value) input.setAttribute('aria-controls', `${props.id}_list`)
  else for (const name of ['aria-owns', 'aria-controls', 'aria-activedescendant']) input.removeAttribute(name)
}
onMounted(mend)
onUpdated(mend)
</script>

<template>
  <div ref="box" class="choice">
    <Select
      :id="id"
      v-model:value="value"
      :options="options"
      :placeholder="placeholder"
      show-search
      :bordered="!frameless"
      :status="invalid ? 'error' : ''"
      option-filter-prop="label"
      @dropdown-visible-change="
        (now: boolean) => {
          open = now
          mend()
        }
      " />
  </div>
</template>

<style scoped>
.choice {
  min-width: 0;
}
.choice :deep(.ant-select) {
  width: 100%;
}
</style>
