/** What a solve holds of a frame. */
interface SolvedFrame {
  readonly frame: number;
  readonly homography: readonly number[] | null;
  readonly sigma: readonly number[];
  readonly trust: number;
  readonly evidence: object;
  readonly information: readonly number[];
  readonly blur: number;
  readonly seen: object;
  readonly own?: readonly number[] | null;
  readonly lens?: number | null;
  readonly bow?: readonly number[] | null;
  readonly inputs?: object | null;
  readonly reason: string | null;
}

/** One frame of a solve as the statement `putFrame` takes it. */
export function frameValues(
  solveId: number,
  { frame, homography, sigma, trust, evidence, information, blur, seen, own, lens, bow, inputs, reason }: SolvedFrame,
): (string | number | null)[] {
  return [
    solveId,
    frame,
    homography && JSON.stringify(homography),
    JSON.stringify(sigma),
    trust,
    JSON.stringify(evidence),
    JSON.stringify(information),
    blur,
    JSON.stringify(seen),
    own ? JSON.stringify(own) : null,
    lens ?? null,
    bow ? JSON.stringify(bow) : null,
    inputs ? JSON.stringify(inputs) : null,
    reason,
  ];
}
