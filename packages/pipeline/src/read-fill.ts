/** The fill of a Screen, picture by picture, in light: in order without a second look, and back again by the piece. */
import type { FillPyramid, FillReading } from '@yarlop/core/dress/fill-pyramid';
import { fillPyramid } from '@yarlop/core/dress/fill-pyramid';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import type { Probe } from '@yarlop/media/probe';
import { probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { InputError } from './pipeline-error';

/** Pictures that are read at once when a clip is asked for backwards. */
const PIECE = 16;

export class FillReader {
  private readonly pictures = new Map<number, Raster>();
  private stream: AsyncGenerator<Raster> | null = null;
  private next = 0;
  private last: { readonly key: string; readonly made: FillPyramid } | null = null;

  private constructor(private readonly source: Source, readonly probe: Probe) {}

  static async open(source: Source): Promise<FillReader> {
    return new FillReader(source, await probe(source));
  }

  /** Picture `n` of the clip; the last one for what lies beyond its end. @throws InputError for a file without pictures */
  async picture(n: number, reading: FillReading): Promise<FillPyramid> {
    const key = `${n} ${JSON.stringify(reading)}`;
    if (this.last?.key !== key) this.last = { key, made: fillPyramid(await this.raster(n), reading) };
    return this.last.made;
  }

  private async raster(n: number): Promise<Raster> {
    const known = this.pictures.get(n);
    if (known) return known;
    if (!this.stream || n < this.next) {
      await this.stream?.return(undefined);
      this.next = this.stream ? Math.max(0, n - PIECE + 1) : 0;
      this.pictures.clear();
      this.stream = decodeRgb(this.source, this.probe, { alpha: true, from: this.next });
    }
    let newest: Raster | undefined;
    while (this.next <= n) {
      const { done, value } = await this.stream.next();
      if (done) break;
      newest = value as Raster;
      this.pictures.set(this.next++, newest);
      if (this.pictures.size > PIECE) this.pictures.delete(this.pictures.keys().next().value!);
    }
    const held = newest ?? [...this.pictures.values()].at(-1);
    if (!held) throw new InputError(`${this.source.name} holds no picture.`);
    return held;
  }

  async close(): Promise<void> {
    await this.stream?.return(undefined);
  }
}
