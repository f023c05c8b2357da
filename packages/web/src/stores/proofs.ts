/** Measured slips by Screen, and what is left of them with the recipe's corrections as they stand, unsaved ones too. */
import { defineStore } from 'pinia';
import { shallowReactive } from 'vue';
import type { Ranking, SlipFrame } from '@yarlop/core/proof/ranking';
import { rankSlips } from '@yarlop/core/proof/ranking';
import type { MeasuredFrame } from '@yarlop/core/proof/residual-slip';
import { slipsLeft } from '@yarlop/core/proof/residual-slip';
import type { Verdict } from '@yarlop/core/proof/verdict';
import { WEAK_TRUST, judge } from '@yarlop/core/proof/verdict';
import type { Corrections } from '@yarlop/core/solve/touch-up';
import { correctionAt } from '@yarlop/core/solve/touch-up';
import { api } from '../api';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import type { Job, ProofView, Recipe, Screen } from '../types';
import { useShot } from './shot';
import { useTracks } from './tracks';

/** Where a slip could not be measured, px. */
const UNKNOWN = 9;

export const useProofs = defineStore('proofs', () => {
  const proofs = shallowReactive(new Map<number, ProofView>());
  const tracks = useTracks();
  const shot = useShot();

  async function load(screenId: number): Promise<void> {
    const p = await api('GET /screens/:id/proof', { id: screenId });
    if (p) proofs.set(screenId, p);
    else proofs.delete(screenId);
  }
  const start = (screenId: number): Promise<Job> => api('POST /screens/:id/prove', { id: screenId });

  /** Slips as measured on the path; none when they were measured on another path. */
  function measured(screen: Screen): (MeasuredFrame & { readonly sigma: readonly number[] })[] {
    const p = proofs.get(screen.id);
    const frames = tracks.tracks.get(screen.id)?.frames;
    if (!p || p.outdated || !frames) return [];
    return p.frames.flatMap((f) => {
      const t = frames.get(f.frame);
      return t ? [{ frame: f.frame, by: f.by, homography: t.homography, sigma: f.sigma.map((s) => s ?? UNKNOWN) }] : [];
    });
  }
  /** Slips of frames whose correction is what it was need not be worked out again. */
  const byFrame = new Map<
    number,
    {
      readonly recipe: Recipe;
      readonly proof: ProofView | undefined;
      readonly frames: unknown;
      readonly slips: Map<number, { readonly by: string; readonly slip: SlipFrame }>;
    }
  >();
  function workedOut(screen: Screen, proof: ProofView | undefined, frames: unknown): SlipFrame[] {
    const last = byFrame.get(screen.id);
    const kept =
      last && last.proof === proof && last.frames === frames && last.recipe.pin === screen.recipe.pin
        ? last.slips
        : new Map<number, { by: string; slip: SlipFrame }>();
    const { recipe } = screen;
    const out = measured(screen).map((f) => {
      const by = correctionAt(recipe, f.frame)?.join() ?? '';
      const known = kept.get(f.frame);
      if (known?.by === by) return known.slip;
      const [slip] = slipsLeft([f], recipe.pin, recipe, shot.shot!.probe.width);
      kept.set(f.frame, { by, slip: slip! });
      return slip!;
    });
    byFrame.set(screen.id, { recipe, proof, frames, slips: kept });
    return out;
  }
  /** What proposed corrections would leave. */
  function leftWith(screen: Screen, corrections: Corrections): SlipFrame[] {
    return slipsLeft(measured(screen), screen.recipe.pin, corrections, shot.shot!.probe.width);
  }
  /** Worked out once for each recipe, whoever asks; while a corner is dragged the last one stands. */
  const known = new Map<
    number,
    {
      readonly recipe: Recipe;
      readonly proof: ProofView | undefined;
      readonly frames: unknown;
      readonly slips: SlipFrame[];
      readonly ranking: Ranking | null;
    }
  >();
  function now(screen: Screen): { readonly slips: SlipFrame[]; readonly ranking: Ranking | null } {
    const proof = proofs.get(screen.id);
    const frames = tracks.tracks.get(screen.id)?.frames;
    const last = known.get(screen.id);
    if (
      last &&
      last.proof === proof &&
      last.frames === frames &&
      (last.recipe === screen.recipe || shot.previewing === screen.id)
    )
      return last;
    const slips = workedOut(screen, proof, frames);
    const made = {
      recipe: screen.recipe,
      proof,
      frames,
      slips,
      ranking: slips.length > 0 ? rankSlips(slips, shot.shot!.probe.width) : null,
    };
    known.set(screen.id, made);
    return made;
  }
  const left = (screen: Screen): SlipFrame[] => now(screen).slips;
  const ranking = (screen: Screen): Ranking | null => now(screen).ranking;
  function verdict(screen: Screen): Verdict {
    const t = tracks.tracks.get(screen.id);
    const all = [...(t?.frames.values() ?? [])];
    const { rangeFrom, rangeTo } = shot.shot!;
    let missing = 0;
    for (let n = rangeFrom; n <= rangeTo; n++) if (!t?.frames.has(n)) missing++;
    return judge({
      frames: all.length,
      bridged: all.filter((f) => Object.keys(f.evidence).length === 0).length,
      weak: all.filter((f) => f.trust < WEAK_TRUST).length,
      halted: t?.halted ?? [],
      missing,
      ranking: ranking(screen),
    });
  }
  /** Slips on one frame, measured at once. */
  const slipAt = (screenId: number, frame: number): Promise<ProofFrame> =>
    api('POST /screens/:id/slip', { id: screenId }, { frame });
  /** Frames on which the pin is right by definition. */
  const rightFrames = (r: Recipe): number[] => [r.referenceFrame, ...(r.hand ?? []).map((k) => k.frame)];
  return { proofs, load, start, measured, left, leftWith, ranking, verdict, slipAt, rightFrames };
});
