import type { TopicAccess } from './access'

/** What somebody may publish and hear, by login. */
export interface AccessOf extends TopicAccess {
  login: string
  who: string
  not: readonly string[]
}

/** The rights of a shop as text for whoever runs the broker: filters by MQTT, one login after the other. */
export function accessText(root: string, rows: readonly AccessOf[]): string {
  const list = (name: string, filters: readonly string[]) =>
    filters.length === 0 ? [] : [`  ${name}:`, ...filters.map((f) => `    ${f}`)]
  return [
    `Logins of the shop below ${root}/, with the MQTT filters of what each may publish and hear.`,
    'Everything else is to be refused; nobody is to come in without a login. Retained messages, last wills and quality of',
    'service 0 and 1 are needed. A denied message is best dropped: ending the connection takes the node off the air.',
    '',
    ...rows.flatMap((r) => [
      `login ${r.login} (${r.who})`,
      ...list('may publish', r.publish),
      ...list('may hear', r.hear),
      ...list('may not publish, although a filter above covers it', r.not),
      '',
    ]),
  ].join('\n')
}
