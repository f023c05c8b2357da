/** Slips of a frame's corners from where the path, without corrections, puts them. */
export interface ProofFrame {
  readonly frame: number;
  /** per corner, px of the frame; null where it could not be told */
  readonly by: readonly (readonly [number, number] | null)[];
  readonly sigma: readonly (number | null)[];
  readonly likeness: readonly number[];
  readonly reason: readonly (string | null)[];
}
