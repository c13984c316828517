/** Taking bytes from a stream, as many as are asked for. */
export class Taking {
  private held: Uint8Array = new Uint8Array(0);
  private readonly chunks: AsyncIterator<Uint8Array>;

  constructor(body: AsyncIterable<Uint8Array>) {
    this.chunks = body[Symbol.asyncIterator]();
  }

  /** At most so many bytes, one at least; undefined at the end. */
  async some(most: number): Promise<Uint8Array | undefined> {
    while (this.held.length === 0) {
      const next = await this.chunks.next();
      if (next.done) return undefined;
      this.held = next.value;
    }
    const part = this.held.subarray(0, most);
    this.held = this.held.subarray(part.length);
    return part;
  }

  /** Exactly so many bytes; undefined where nothing comes any more at all. Throws an Error where fewer come. */
  async exactly(count: number): Promise<Uint8Array | undefined> {
    const bytes = new Uint8Array(count);
    for (let at = 0; at < count;) {
      const part = await this.some(count - at);
      if (!part && at === 0) return undefined;
      if (!part) throw new Error('it ends too early');
      bytes.set(part, at);
      at += part.length;
    }
    return bytes;
  }
}
