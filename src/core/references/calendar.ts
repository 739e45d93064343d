/** What a calendar reminds of. */
export interface Reminder {
  id: string
  at: Date
  title: string
  text: string
}

const stamp = (d: Date): string => d.toISOString().replace(/[-:]|\.\d{3}/g, '')
const escaped = (text: string): string => text.replace(/[\\;,]/g, (c) => `\\${c}`).replace(/\r?\n/g, '\\n')

/** Lines of at most 75 octets, continued with a space (RFC 5545, 3.1); no character is parted. */
function folded(line: string): string {
  const bytes = new TextEncoder()
  const out: string[] = []
  let piece = ''
  let size = 0
  for (const c of line) {
    const n = bytes.encode(c).length
    if (size + n > 75) {
      out.push(piece)
      piece = ' '
      size = 1
    }
    piece += c
    size += n
  }
  return [...out, piece].join('\r\n')
}

/** One reminder as an iCalendar file (RFC 5545). `now` is when the file is made. */
export const calendarFile = ({ id, at, title, text }: Reminder, now: Date): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//vivid-node//reminder//EN',
    'BEGIN:VEVENT',
    `UID:${id}@vivid-node`,
    `DTSTAMP:${stamp(now)}`,
    `DTSTART:${stamp(at)}`,
    'DURATION:PT15M',
    `SUMMARY:${escaped(title)}`,
    `DESCRIPTION:${escaped(text)}`,
    'BEGIN:VALARM',
    'ACTION:DISPLAY',
    'TRIGGER:PT0M',
    `DESCRIPTION:${escaped(title)}`,
    'END:VALARM',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ]
    .map(folded)
    .join('\r\n')
