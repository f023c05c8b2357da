/** Matching the plate: what is measured for a Screen, and the dress that comes of it. */
import type { Proposal } from '@yarlop/core/dress/match';
import { withProposals } from '@yarlop/core/dress/proposals';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { ref } from 'vue';
import { stream } from '../api';
import type { Recipe, Screen } from '../types';

export interface Progress {
  readonly done: number;
  readonly total: number;
}

/** Looks the plate through for one Screen. @returns what it proposes; nothing where it was stopped before its end */
export async function measured(
  screenId: number,
  stop: AbortSignal,
  hear: (progress: Progress) => void,
): Promise<readonly Proposal[]> {
  let proposals: readonly Proposal[] = [];
  await stream<Partial<Progress> & { proposals?: Proposal[] }>(`/screens/${screenId}/match`, {}, stop, (l) => {
    if (l.proposals) proposals = l.proposals;
    else hear({ done: l.done ?? 0, total: l.total ?? 0 });
  });
  return proposals;
}

/** A recipe with all that was proposed. */
export function matched(recipe: Recipe, proposals: readonly Proposal[]): Recipe {
  if (proposals.length === 0) return recipe;
  return { ...recipe, dress: withProposals((recipe.dress ?? {}) as DressRecipe, proposals) } as Recipe;
}

/** One measuring after another, each with its progress. */
export function useMeasuring() {
  const running = ref<(Progress & { readonly name: string }) | null>(null);

  /** @returns null where it was stopped @throws ApiError */
  async function measure(s: Screen, stop: AbortController): Promise<readonly Proposal[] | null> {
    if (stop.signal.aborted) return null;
    running.value = { done: 0, total: 0, name: s.recipe.name };
    try {
      return await measured(s.id, stop.signal, (p) => running.value && (running.value = { ...running.value, ...p }));
    } catch (e) {
      if (stop.signal.aborted) return null;
      throw e;
    } finally {
      running.value = null;
    }
  }
  return { running, measure };
}
