export const nextOrder = (items: Record<string, { order: number }>): number =>
  Math.max(-1, ...Object.values(items).map((i) => i.order)) + 1
