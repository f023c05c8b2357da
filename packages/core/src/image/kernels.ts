/**
 * The hot loops as WASM, where the machine has it: loaded on first use, one instance a thread. Pictures that were put
 * into its memory ({@link Kernels.room}) are worked there; all others, and everything without WASM, in plain
 * TypeScript.
 */
import { KERNELS } from '../generated/kernels';

interface Exports {
  readonly memory: WebAssembly.Memory;
  widen8(from: number, to: number, n: number): void;
  widen16(from: number, to: number, n: number): void;
  halve(from: number, width: number, height: number, to: number, row: number): void;
  straighten(
    frame: number,
    bytes: number,
    width: number,
    height: number,
    radial: number,
    x0: number,
    y: number,
    n: number,
    to: number,
  ): void;
  profile(
    image: number,
    width: number,
    bx: number,
    by: number,
    sx: number,
    sy: number,
    tx: number,
    ty: number,
    lines: number,
    taps: number,
    to: number,
  ): void;
  products(profile: number, look: number, n: number, count: number, to: number): void;
  cell(
    image: number,
    width: number,
    height: number,
    a: number,
    a1: number,
    a2: number,
    b: number,
    b1: number,
    b2: number,
    w: number,
    w1: number,
    w2: number,
    ox: number,
    oy: number,
    side: number,
    cubic: number,
    to: number,
  ): number;
  smear(
    image: number,
    width: number,
    ox: number,
    oy: number,
    size: number,
    taps: number,
    dx: number,
    dy: number,
    to: number,
  ): void;
  lensSlots(
    map: number,
    radial: number,
    width: number,
    height: number,
    x: number,
    y: number,
    n: number,
    step: number,
    to: number,
  ): void;
  slotPlaces(map: number, slots: number, below: number, n: number, to: number): void;
  rowPlaces(maps: number, x: number, y: number, n: number, to: number): void;
  filterRow(
    places: number,
    cover: number,
    n: number,
    levels: number,
    low: number,
    high: number,
    last: number,
    mostTaps: number,
    nearly: number,
    to: number,
  ): void;
  decodeRow(from: number, bytes: number, n: number, table: number, to: number): void;
  glareRow(
    plate: number,
    map: number,
    x: number,
    y: number,
    n: number,
    cells: number,
    columns: number,
    rows: number,
    to: number,
  ): void;
  addLight(data: number, light: number, n: number, share: number): void;
  lineariseRow(from: number, channels: number, n: number, tables: number, to: number): void;
  halveLight(above: number, below: number, n: number, to: number): void;
  blur(data: number, row: number, height: number, channels: number, weights: number, half: number, room: number): void;
  smearPath(
    image: number,
    width: number,
    height: number,
    ox: number,
    oy: number,
    maps: number,
    n: number,
    to: number,
  ): void;
  mapLight(data: number, n: number, columns: number): void;
  noiseRow(first: number, seed: number, n: number, table: number, bits: number, to: number): void;
  composeRow(
    element: number,
    under: number,
    field: number,
    strength: number,
    bands: number,
    codes: number,
    steps: number,
    top: number,
    most: number,
    n: number,
    changed: number,
    bytes: number,
    to: number,
  ): void;
}

/** Bytes of a page of WASM memory. Source: WebAssembly Core Specification 1.0, section 4.2.8. */
const PAGE = 65536;
/** Byte addresses of what the loops read and write, and how many floats each holds; pictures lie behind them. */
export const LINE_AT = PAGE;
export const ROW_AT = LINE_AT + PAGE;
export const TAPS_AT = ROW_AT + PAGE;
export const LOOK_AT = TAPS_AT + 32768;
export const OUT_AT = LOOK_AT + PAGE;
export const PATCH_AT = OUT_AT + PAGE;
/** Floats of the longest line that the kernels take: room in their fixed region. */
export const MOST_LINE = 12_000;
/** Floats of taps, likewise. */
export const MOST_TAPS = 8192;
/** Floats of a look, likewise. */
export const MOST_LOOK = 5400;
/** Places of a search, likewise. */
export const MOST_PLACES = 3200;
/** Floats of a cell's picture, likewise. */
export const MOST_CELL = 16_000;
/** Floats of a patch, likewise. */
export const MOST_PATCH = 65_536;
const PICTURES_AT = 16 * PAGE;

/** The loops and their memory; see the head of this file. */
export class Kernels {
  private floats: Float32Array;
  private spare = { at: 0, bytes: 0 };
  private rooms = 0;
  private constructor(readonly run: Exports) {
    this.floats = new Float32Array(run.memory.buffer);
  }

  static load(): Kernels | null {
    try {
      const bytes = Uint8Array.from(atob(KERNELS), (c) => c.charCodeAt(0));
      const instance = new WebAssembly.Instance(new WebAssembly.Module(bytes), { env: { abort: () => undefined } });
      return new Kernels(instance.exports as unknown as Exports);
    } catch {
      return null;
    }
  }

  /** All of the memory as floats; index = byte address / 4. A call of {@link room} may replace it. */
  get memory(): Float32Array {
    return this.floats;
  }

  /** Changes whenever {@link room} gives up what lay in this memory. */
  get tenancy(): number {
    return this.rooms;
  }

  /** Whether a picture lies in this memory. */
  holds(data: Float32Array): boolean {
    return data.buffer === this.floats.buffer;
  }

  /**
   * Room for a frame of `bytes` and pictures of so many floats each, in one piece; whatever lay there before is given
   * up.
   * @param scratch bytes behind them for `scratch`
   * @returns the frame's place and the pictures
   */
  room(bytes: number, floats: readonly number[], scratch = 0): { frame: Uint8Array; pictures: Float32Array[] } {
    this.rooms++;
    const first = Math.ceil((PICTURES_AT + bytes + 16) / 16) * 16;
    const behind = floats.reduce((s, n) => s + 16 * Math.ceil(n / 4 + 2), first);
    const end = behind + scratch;
    const { memory } = this.run;
    this.spare = { at: behind, bytes: scratch };
    if (end > memory.buffer.byteLength) {
      memory.grow(Math.ceil((end - memory.buffer.byteLength) / PAGE));
      this.floats = new Float32Array(memory.buffer);
    }
    const pictures: Float32Array[] = [];
    for (let at = first, i = 0; i < floats.length; at += 16 * Math.ceil(floats[i]! / 4 + 2), i++)
      pictures.push(this.floats.subarray(at / 4, at / 4 + floats[i]!));
    return { frame: new Uint8Array(memory.buffer, PICTURES_AT, bytes), pictures };
  }

  /** Address of room that a loop may use while it runs; null where {@link room} was not asked for so many bytes. */
  scratch(bytes: number): number | null {
    return bytes <= this.spare.bytes ? this.spare.at : null;
  }
}

let loaded: Kernels | null | undefined;
let rendering: Kernels | null | undefined;

/** Null where WASM with SIMD cannot be had. */
export function kernels(): Kernels | null {
  return (loaded ??= Kernels.load());
}

/** The kernels with a memory of their own for rendering, so that it never takes a follower's pictures away. */
export function renderKernels(): Kernels | null {
  return (rendering ??= Kernels.load());
}

/** The kernels when `data` lies in their memory, else null. */
export function kernelsFor(data: Float32Array): Kernels | null {
  if (loaded?.holds(data)) return loaded;
  if (rendering?.holds(data)) return rendering;
  return null;
}
