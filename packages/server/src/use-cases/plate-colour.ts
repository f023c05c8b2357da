/** The plate's colour as the person set it for a shot, before the file's own tags. */
import type { Probe } from '@yarlop/media/probe';

export interface SetColour {
  readonly transfer?: string;
  readonly primaries?: string;
}

export function withColour(probe: Probe, set: SetColour | null): Probe {
  return set ? { ...probe, colour: { ...probe.colour, ...set } } : probe;
}
