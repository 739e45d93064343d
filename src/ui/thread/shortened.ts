/** Letters kept of the end, where what tells two names apart mostly stands. */
const TAIL = 9

/** A name cut in its middle, so that beginning and end stay: `Toggle switch w… lamp 3`. */
export function shortened(text: string, most: number): string {
  if (text.length <= most) return text
  const tail = text.slice(-TAIL).trimStart()
  return `${text.slice(0, Math.max(1, most - tail.length - 1)).trimEnd()}…${tail}`
}
