<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { useTheme } from '@/theme/useTheme'

/** An ordinary plot of one or two lines. What it shows always stands in a table beside it. */
interface Line { name: string; points: (readonly [number, number])[]; right?: boolean; dashed?: boolean }
const props = defineProps<{ lines: Line[]; xName: string; yName: string; rightName?: string; label: string; mark?: { at: number; name: string } | null; steps?: boolean; levels?: { at: number; name: string }[] }>()
use([LineChart, GridComponent, LegendComponent, MarkLineComponent, TooltipComponent, CanvasRenderer])

const box = ref<HTMLElement | null>(null)
let chart: EChartsType | null = null
const { theme } = useTheme()

function draw() {
  if (!box.value || !chart) return
  const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
  const [text, muted, line, accent, panel] = ['--text', '--muted', '--line', '--accent', '--panel'].map(colour)
  const axis = (name: string, gap: number) => ({ name, nameLocation: 'middle' as const, nameGap: gap, nameTextStyle: { color: muted }, axisLabel: { color: muted }, axisLine: { lineStyle: { color: line } }, splitLine: { lineStyle: { color: line, opacity: 0.4 } } })
  const marks = [
    ...(props.mark ? [{ xAxis: props.steps ? String(props.mark.at) : props.mark.at, name: props.mark.name, label: { formatter: props.mark.name, color: text } }] : []),
    ...(props.levels ?? []).map((one) => ({ yAxis: one.at, name: one.name, label: { formatter: one.name, color: text, position: 'insideStartTop' as const } })),
  ]
  chart.setOption({
    animation: false,
    textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable, system-ui, sans-serif' },
    grid: { left: 52, right: props.rightName ? 56 : 18, top: 28, bottom: 40 },
    legend: { show: props.lines.length > 1, top: 0, textStyle: { color: text }, inactiveColor: muted },
    tooltip: { trigger: 'axis', backgroundColor: panel, borderColor: line, textStyle: { color: text }, valueFormatter: (value: unknown) => (typeof value === 'number' ? value.toPrecision(3) : '') },
    xAxis: props.steps
      ? { type: 'category', data: (props.lines[0]?.points ?? []).map(([at]) => String(at)), ...axis(props.xName, 24) }
      : { type: 'value', min: 0, max: 'dataMax', ...axis(props.xName, 24) },
    yAxis: [{ type: 'value', ...axis(props.yName, 36) }, ...(props.rightName ? [{ type: 'value', ...axis(props.rightName, 38), splitLine: { show: false } }] : [])],
    series: props.lines.map((one, place) => ({
      name: one.name, type: 'line', data: props.steps ? one.points.map(([, value]) => value) : one.points, yAxisIndex: one.right ? 1 : 0, symbolSize: 6, color: place ? text : accent,
      lineStyle: { type: one.dashed ? 'dashed' : 'solid' },
      markLine: place === 0 && marks.length ? { silent: true, symbol: 'none', lineStyle: { color: text, type: 'dotted' }, data: marks } : undefined,
    })),
  }, true)
}
onMounted(() => {
  if (!box.value) return
  chart = init(box.value)
  draw()
})
onBeforeUnmount(() => chart?.dispose())
useResizeObserver(box, () => chart?.resize())
watch(() => [props.lines, props.mark, theme.value], () => requestAnimationFrame(draw), { deep: true })
</script>

<template><div ref="box" class="plot" role="img" :aria-label="label" /></template>

<style scoped>
.plot { width: 100%; height: 100%; min-height: 190px; }
</style>
