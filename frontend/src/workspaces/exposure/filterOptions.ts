import type { Schemas } from '@/api/client'

/** The filters one may choose from: none, and those one owns. */
export const filterOptions = (found: Schemas['ExposureOut'] | undefined) =>
  (found?.filters ?? [])
    .filter((one) => one.whose === 'yours')
    .map((one) => ({ value: one.name === 'No filter' ? 'none' : one.name, label: one.name }))
