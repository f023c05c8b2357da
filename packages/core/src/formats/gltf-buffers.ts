/** The numbers of a glTF file, held in it. Source: Khronos, glTF 2.0 specification (ISO/IEC 12113:2022), 3.6. */

function base64(bytes: Uint8Array): string {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  let out = '';
  for (let i = 0; i < bytes.length; i += 3) {
    const n = (bytes[i]! << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0);
    const left = bytes.length - i;
    out +=
      letters[n >> 18]! +
      letters[(n >> 12) & 63]! +
      (left > 1 ? letters[(n >> 6) & 63]! : '=') +
      (left > 2 ? letters[n & 63]! : '=');
  }
  return out;
}

/** Target of a buffer view. Source: glTF 2.0 specification, 5.11.5. */
export const ARRAY_BUFFER = 34962;
/** Target of a buffer view of indices. Source: the same. */
export const ELEMENT_ARRAY_BUFFER = 34963;
/** Component type. Source: glTF 2.0 specification, 5.1.3. */
const FLOAT = 5126;
/** Component type. Source: the same. */
const UNSIGNED_SHORT = 5123;

/** Bytes in order, each piece on a multiple of four. */
export class Buffers {
  private readonly views: object[] = [];
  private readonly accessors: object[] = [];
  private readonly pieces: Uint8Array[] = [];
  private length = 0;

  add(
    data: Float32Array | Uint16Array,
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4',
    bounds: boolean,
    target?: number,
  ): number {
    const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    const n = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }[type];
    const columns = Array.from({ length: n }, (_, c) => Array.from(data).filter((_, i) => i % n === c));
    this.views.push({ buffer: 0, byteOffset: this.length, byteLength: bytes.length, ...(target ? { target } : {}) });
    this.accessors.push({
      bufferView: this.views.length - 1,
      componentType: data instanceof Uint16Array ? UNSIGNED_SHORT : FLOAT,
      count: data.length / n,
      type,
      ...(bounds
        ? {
            min: columns.map((c) => c.reduce((a, v) => Math.min(a, v), Infinity)),
            max: columns.map((c) => c.reduce((a, v) => Math.max(a, v), -Infinity)),
          }
        : {}),
    });
    const padded = new Uint8Array(Math.ceil(bytes.length / 4) * 4);
    padded.set(bytes);
    this.pieces.push(padded);
    this.length += padded.length;
    return this.accessors.length - 1;
  }

  /** Members of the file that holds them; nothing is added after this. */
  members(): object {
    return { accessors: this.accessors, bufferViews: this.views, buffers: [this.whole()] };
  }

  private whole(): { readonly byteLength: number; readonly uri: string } {
    const all = new Uint8Array(this.length);
    let at = 0;
    for (const p of this.pieces) {
      all.set(p, at);
      at += p.length;
    }
    return { byteLength: this.length, uri: `data:application/octet-stream;base64,${base64(all)}` };
  }
}
