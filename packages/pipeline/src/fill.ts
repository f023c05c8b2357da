/** The fill of a Screen, picture by picture, in light: a picture or clip, or one that is made up. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { CubeTable } from '@yarlop/core/dress/colour/cube-table';
import type { FillColour, FillPyramid, FillReading, Tagged } from '@yarlop/core/dress/fill/fill-pyramid';
import { bendLight, fillPyramid, noFill, pyramidOf, readingOf } from '@yarlop/core/dress/fill/fill-pyramid';
import type { FillTime } from '@yarlop/core/dress/fill/fill-time';
import { fillPicture } from '@yarlop/core/dress/fill/fill-time';
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import { madeFrame, madeSize, makeFill } from '@yarlop/core/dress/content/made-fill';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { changesPlate } from '@yarlop/core/dress/layer/recipe';
import { transferOf } from '@yarlop/core/dress/colour/transfer';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import type { Probe } from '@yarlop/media/probe';
import { probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { letters } from './fonts';
import { InputError } from './pipeline-error';

/** A source as it crosses to another thread. */
export type SourcePlace = Omit<Source, 'dispose'>;

/** A source as what a thread needs to read it itself. */
export function placeOf({ name, input, firstNumber, fileCount, files }: Source): SourcePlace {
  return { name, input, firstNumber, fileCount, files };
}

/** What a fill is read from; parts that its recipe does not name are null. */
export interface FillOrder {
  readonly media: SourcePlace | null;
  readonly foreground: SourcePlace | null;
  /** of the layers of what is made up, each in its layer's place; none when left out */
  readonly layers?: readonly (SourcePlace | null)[];
  readonly table: CubeTable | null;
}

/** Pictures that are read at once when a clip is asked for backwards. */
const PIECE = 16;

/** A picture or clip: in order without a second look, and back again by the piece. */
class ClipReader {
  private readonly pictures = new Map<number, Raster>();
  private stream: AsyncGenerator<Raster> | null = null;
  private next = 0;
  private last: { readonly key: string; readonly made: FillPyramid } | null = null;

  private constructor(
    private readonly source: SourcePlace,
    readonly probe: Probe,
  ) {}

  static async open(place: SourcePlace): Promise<ClipReader> {
    return new ClipReader(place, await probe({ ...place, dispose: async () => {} }));
  }

  /** The picture for a frame of the plate. @throws InputError for a file without pictures */
  async on(time: FillTime, frame: number, rate: readonly [number, number], reading: FillReading): Promise<FillPyramid> {
    const n = fillPicture(time, frame, Math.max(1, this.probe.frameCount), this.probe.frameRate, rate);
    const key = `${n} ${JSON.stringify({ ...reading, table: undefined })}`;
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
      this.stream = decodeRgb({ ...this.source, dispose: async () => {} }, this.probe, {
        alpha: true,
        from: this.next,
      });
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

/** The replacement content of one Screen, frame by frame. */
export class Fill {
  private constructor(
    private readonly screen: ScreenFile,
    private readonly media: ClipReader | null,
    private readonly foreground: ClipReader | null,
    private readonly layers: readonly (ClipReader | null)[],
    private readonly table: CubeTable | null,
  ) {}

  static async open({ media, foreground, layers = [], table }: FillOrder, screen: ScreenFile): Promise<Fill> {
    return new Fill(
      screen,
      media && (await ClipReader.open(media)),
      foreground && (await ClipReader.open(foreground)),
      await Promise.all(layers.map((place) => place && ClipReader.open(place))),
      table,
    );
  }

  /** The fill as it is on a frame of the plate. @throws InputError for files without pictures */
  async on(frame: number, plate: Probe): Promise<FillPyramid> {
    const { screen, media, foreground, layers, table } = this;
    const fill = screen.fill ?? {};
    const dress = (screen.dress ?? {}) as DressRecipe;
    const { levels } = dress;
    const set = fill as FillColour;
    const made = fill.made as MadeFill | undefined;
    const read = (of: Tagged, gamma: boolean): FillReading => {
      const r = readingOf(levels, frame, of, set, plate.colour);
      return { ...r, ...(gamma ? {} : { gamma: [1, 1, 1] as const }), table: table ?? undefined };
    };
    if (!made) {
      if (!media && changesPlate(dress)) return noFill();
      if (!media) throw new InputError(`Screen "${screen.name}" has no fill.`);
      return media.on(fill, frame, plate.frameRate, read(media.probe.colour, true));
    }
    const shown = async (clip: ClipReader | null, time: FillTime, on: number): Promise<FillPyramid | null> =>
      clip && clip.on(time, on, plate.frameRate, read(clip.probe.colour, false));
    const at = madeFrame(fill, frame);
    const background = await shown(media, fill, frame);
    const before = await shown(foreground, { start: made.foreground?.start ?? 0 }, frame);
    const pictures = await Promise.all(
      (made.layers ?? []).map((l, i) =>
        shown(layers[i] ?? null, { start: l.kind === 'picture' ? (l.start ?? 0) : 0 }, at),
      ),
    );
    const { gamma = [1, 1, 1] } = read({ transfer: null, primaries: null }, true);
    const parts = { background, foreground: before, layers: pictures, letters: await letters() };
    const curve = transferOf(plate.colour.transfer);
    const picture = makeFill(made, at, madeSize(screen.pin, made), parts, { curve });
    return pyramidOf(bendLight(picture, gamma));
  }

  async close(): Promise<void> {
    await this.media?.close();
    await this.foreground?.close();
    for (const l of this.layers) await l?.close();
  }
}
