/**
 * Memory of frames that is used again: given back once a picture is written. Otherwise it waits for the collector, and
 * a dozen frames of 25 MB each stand about that nobody needs.
 */
const MOST_KEPT = 8;

/** Cuts a stream of bytes into frames of one size. */
export class FrameBuffers {
  private readonly free: ArrayBuffer[] = [];
  private size = 0;

  /** Of one size, which must not change while buffers are out. */
  take(bytes: number): Buffer {
    this.size = bytes;
    return Buffer.from(this.free.pop() ?? new ArrayBuffer(bytes));
  }

  /** What was not taken here, or is part of something larger, is left alone. */
  give(data: ArrayBufferView): void {
    if (data.buffer instanceof ArrayBuffer && data.buffer.byteLength === this.size && this.free.length < MOST_KEPT)
      this.free.push(data.buffer);
  }
}
