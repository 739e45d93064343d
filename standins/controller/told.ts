import type { MqttClient } from 'mqtt'
import { z } from 'zod'

/**
 * Two made-up controllers that read no Thing Descriptions, each told in a form of its own that the shop writes by
 * template: a wall panel with one message for each entity, and a hub with one for each node.
 */
const panelSchema = z.strictObject({
  label: z.string(),
  room: z.string(),
  read: z.string(),
  write: z.string(),
  unit: z.string(),
})
const hubSchema = z.strictObject({
  device: z.string(),
  alive: z.string(),
  channels: z.array(z.strictObject({ n: z.string(), from: z.string(), to: z.string() })),
})

export class ToldControllers {
  private readonly panel = new Map<string, z.infer<typeof panelSchema>>()
  private readonly hub = new Map<string, z.infer<typeof hubSchema>>()
  private dirty = true

  constructor(private readonly client: MqttClient) {
    client.on('message', (topic, payload) => this.take(topic, payload.toString()))
    setInterval(() => this.tell(), 250)
  }

  /** Once the line stands. */
  begin(): void {
    this.client.subscribe(['panel/+/+', 'hub/+'], { qos: 1 })
    this.dirty = true
  }

  private take(topic: string, text: string): void {
    if (topic.startsWith('panel/')) this.put(this.panel, panelSchema, topic, text)
    else if (topic.startsWith('hub/')) this.put(this.hub, hubSchema, topic, text)
  }

  private put<T>(all: Map<string, T>, schema: z.ZodType<T>, topic: string, text: string): void {
    this.dirty = true
    if (text === '') return void all.delete(topic)
    let json: unknown
    try {
      json = JSON.parse(text)
    } catch {
      json = undefined
    }
    const read = schema.safeParse(json)
    if (read.success) all.set(topic, read.data)
    else console.error(`told controller: ${topic}: ${read.error.issues[0]?.message}`)
  }

  private tell(): void {
    if (!this.dirty || !this.client.connected) return
    this.dirty = false
    const told = {
      panel: [...this.panel.values()].map((e) => e.label).sort(),
      hub: [...this.hub.values()].map((d) => `${d.device}: ${d.channels.length}`).sort(),
    }
    this.client.publish('standin/controller/told', JSON.stringify(told), { retain: true, qos: 1 })
  }
}
