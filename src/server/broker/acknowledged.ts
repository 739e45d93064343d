import type { MqttClient } from 'mqtt'
import { generate } from 'mqtt-packet'
import type { Writable } from 'node:stream'

/**
 * Has messages acknowledged each when what it leaves behind is kept, while others come in. The library takes one after
 * the other and would wait for the disk with each: it is shown them as needing no answer, and the answer is given here.
 * `keep` resolves when the message is kept; it is tried again by the broker when it rejects and the line is new.
 */
export function acknowledgeWhenKept(
  client: MqttClient,
  keep: (topic: string, payload: Buffer, packet: { qos: 0 | 1; retain: boolean }) => Promise<void>,
  calm: () => Promise<void> | null,
): void {
  const unanswered = new WeakMap<object, number>()
  const answers = new Together()
  client.on('packetreceive', (packet) => {
    if (packet.cmd !== 'publish' || packet.qos !== 1 || packet.messageId === undefined) return
    unanswered.set(packet, packet.messageId)
    packet.qos = 0
  })
  client.handleMessage = (packet, done) => {
    const messageId = unanswered.get(packet)
    const { stream } = client
    const payload = Buffer.isBuffer(packet.payload) ? packet.payload : Buffer.from(packet.payload)
    const qos = messageId === undefined && packet.qos === 0 ? 0 : 1
    const kept = keep(packet.topic, payload, { qos, retain: packet.retain })
    kept.then(
      () => {
        // On the line it came by, and no other: there its number means something else.
        if (messageId !== undefined && client.stream === stream && !stream.destroyed)
          answers.give(stream, generate({ cmd: 'puback', messageId }))
      },
      () => undefined,
    )
    const waits = calm()
    if (waits) void waits.then(() => done())
    else done()
  }
}

/** Answers that are given in one turn of the loop go out as one piece. */
class Together {
  private corked: Writable | null = null

  give(stream: Writable, answer: Buffer): void {
    if (this.corked !== stream) {
      this.corked?.uncork()
      this.corked = stream
      stream.cork()
      setImmediate(() => {
        stream.uncork()
        if (this.corked === stream) this.corked = null
      })
    }
    stream.write(answer)
  }
}
