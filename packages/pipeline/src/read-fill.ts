/** The fill of a Screen, frame by frame: a still holds; a clip plays from the plate's first frame and holds its last picture. */
import type { FillPyramid } from '@yarlop/core/dress/fill-pyramid';
import { fillPyramid } from '@yarlop/core/dress/fill-pyramid';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';

export class FillReader {
  private current: FillPyramid | null = null;
  private at = -1;

  private constructor(private readonly pictures: AsyncGenerator<Raster>) {}

  static async open(source: Source): Promise<FillReader> {
    const p = await probe(source);
    return new FillReader(decodeRgb(source, p, { alpha: true }));
  }

  /** Frames must be asked for in rising order. */
  async picture(frame: number): Promise<FillPyramid> {
    while (this.at < frame) {
      const next = await this.pictures.next();
      if (next.done) break;
      this.at++;
      this.current = fillPyramid(next.value);
    }
    if (!this.current) throw new Error('The fill holds no picture.');
    return this.current;
  }

  async close(): Promise<void> {
    await this.pictures.return(undefined);
  }
}
