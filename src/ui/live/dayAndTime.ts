/** A moment as the pages write it: 28 Nov, 00:50. */
export const dayAndTime = (iso: string): string =>
  new Date(iso).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
