/** Matching the plate: what is measured for a Screen, and the dress that comes of it. */
import type { Proposal } from '@yarlop/core/dress/match';
import { withProposals } from '@yarlop/core/dress/proposals';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { stream } from '../api';
import type { Recipe } from '../types';

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
