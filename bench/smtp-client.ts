import { createConnection, type Socket } from 'node:net'

/** A client that hands over one message after the other on one connection, and waits for each answer (RFC 5321). */
export class SmtpClient {
  private buffer = ''
  private waiting: ((reply: string) => void) | null = null

  private constructor(private readonly socket: Socket) {
    socket.setNoDelay(true)
    socket.on('data', (data) => {
      this.buffer += data.toString('latin1')
      // The last line of a reply has a space after its code.
      const end = this.buffer.lastIndexOf('\r\n')
      const line =
        end < 0
          ? ''
          : this.buffer.slice(this.buffer.lastIndexOf('\r\n', end - 1) + (this.buffer.lastIndexOf('\r\n', end - 1) < 0 ? 1 : 2), end)
      if (end < 0 || line[3] !== ' ') return
      this.buffer = ''
      this.waiting?.(line)
    })
  }

  static async connect(port: number, localAddress = '127.0.0.1'): Promise<SmtpClient> {
    const client = new SmtpClient(createConnection({ port, host: '127.0.0.1', localAddress }))
    await client.reply()
    await client.say('EHLO bench.example')
    return client
  }

  /** @returns the reply to the data */
  async handOver(from: string, to: readonly string[], bytes: Uint8Array): Promise<string> {
    await this.say(`MAIL FROM:<${from}>`)
    for (const recipient of to) await this.say(`RCPT TO:<${recipient}>`)
    await this.say('DATA')
    const answer = this.reply()
    this.socket.write(dotStuffed(bytes))
    this.socket.write('\r\n.\r\n')
    return answer
  }

  close(): void {
    this.socket.destroy()
  }

  private say(line: string): Promise<string> {
    const answer = this.reply()
    this.socket.write(`${line}\r\n`)
    return answer
  }

  private reply(): Promise<string> {
    return new Promise(resolve => (this.waiting = resolve))
  }
}

function dotStuffed(bytes: Uint8Array): Buffer {
  const text = Buffer.from(bytes)
  return text.includes('\n.') ? Buffer.from(text.toString('latin1').replace(/\n\./g, '\n..'), 'latin1') : text
}
