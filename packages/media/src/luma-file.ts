/**
 * The raw luma of a plate in one file: frame after frame, 8 or 16 bit little-endian, full range. The follower reads any
 * frame in either direction from it in under a millisecond or two.
 */
import type { FileHandle } from 'node:fs/promises';
import { open, stat } from 'node:fs/promises';
import type { RawLuma } from '@yarlop/core/image/image';
import { MediaError } from './media-error';

/** Luma of all frames in one file, read frame by frame. */
export class LumaFile {
  private constructor(
    private readonly file: FileHandle,
    readonly width: number,
    readonly height: number,
    readonly bytes: 1 | 2,
    readonly frameCount: number,
  ) {}

  static async open(path: string, width: number, height: number, bitDepth: number): Promise<LumaFile> {
    const bytes = bitDepth > 8 ? 2 : 1;
    const { size } = await stat(path);
    return new LumaFile(await open(path, 'r'), width, height, bytes, Math.floor(size / (width * height * bytes)));
  }

  async read(frame: number): Promise<RawLuma> {
    if (frame < 0 || frame >= this.frameCount)
      throw new MediaError(
        'unusable',
        `Frame ${frame} lies outside the plate, which has frames 0 to ${this.frameCount - 1}.`,
      );
    const size = this.width * this.height * this.bytes;
    const b = Buffer.allocUnsafeSlow(size);
    const { bytesRead } = await this.file.read(b, 0, size, frame * size);
    if (bytesRead !== size) throw new MediaError('unusable', `Frame ${frame} of the plate could not be read.`);
    return {
      width: this.width,
      height: this.height,
      data: this.bytes === 2 ? new Uint16Array(b.buffer, 0, size / 2) : b,
    };
  }

  close(): Promise<void> {
    return this.file.close();
  }
}
