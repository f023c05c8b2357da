/** The chosen Screen's proof: its slips as they stand, what is worst, and repairing it. */
import { computed } from 'vue';
import type { Point } from '@yarlop/core/geometry/point';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { useLive } from '../stores/live';
import { useProofs } from '../stores/proofs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe, Screen } from '../types';
import { touchedTo } from '../edits/touch-up-edit';

export function useProof() {
  const store = useShot();
  const proofs = useProofs();
  const tracks = useTracks();
  const live = useLive();
  const screen = computed(() => store.chosen);
  const proof = computed(() => (store.chosenId === null ? undefined : proofs.proofs.get(store.chosenId)));
  const job = computed(() => live.jobOf('prove', store.chosenId));
  const ranking = computed(() => (screen.value ? proofs.ranking(screen.value) : null));
  const verdict = computed(() => (screen.value && store.shot ? proofs.verdict(screen.value) : null));
  const followed = computed(() => (screen.value ? (tracks.tracks.get(screen.value.id)?.frames.size ?? 0) : 0));

  /**
   * Moves corners to where their likeness was measured to fit on a frame.
   * @returns the recipe with a touch-up there, or why nothing was moved
   */
  async function snapped(
    s: Screen,
    recipe: Recipe,
    frame: number,
    corners: readonly number[],
  ): Promise<Recipe | string> {
    const kept = proofs.proofs.get(s.id);
    const known = kept && !kept.outdated ? kept.frames.find((f) => f.frame === frame) : undefined;
    const slips = known ?? (await proofs.slipAt(s.id, frame));
    const h = tracks.plane(s, frame);
    if (!h) return `Frame ${frame} is not followed.`;
    const wanted = [0, 1, 2, 3].map((c): Point | null => {
      const by = corners.includes(c) ? slips.by[c] : null;
      const at = mapPoint(h, recipe.pin[c]!);
      return by ? [at[0] + by[0], at[1] + by[1]] : null;
    });
    if (wanted.every((w) => w === null))
      return corners.map((c) => slips.reason[c]).find((r) => r) ?? 'No likeness fits here.';
    return touchedTo(recipe, frame, h, wanted);
  }
  return { screen, proof, job, ranking, verdict, followed, snapped };
}
