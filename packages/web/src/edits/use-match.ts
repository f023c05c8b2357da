/** Matching the plate: what is measured for a Screen, and the dress that comes of it. */
import type { Proposal } from '@yarlop/core/dress/match';
import { stream } from '../api';
import type { Recipe } from '../types';
import { withPart } from './use-dress';

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

/** What a person set beside something that was measured. */
function settings(part: object | undefined): object {
  return Object.fromEntries(Object.entries(part ?? {}).filter(([k]) => k !== 'measured' && k !== 'sync'));
}

/** What was measured before gives way; what the person set beside it stays. */
function withProposal(recipe: Recipe, proposal: Proposal): Recipe {
  return Object.entries(proposal.recipe).reduce((now, [part, value]) => {
    const own = (now.dress as Record<string, object> | undefined)?.[part];
    return withPart(
      now,
      part as Proposal['part'],
      Array.isArray(value) ? value : { ...settings(own), ...(value as object) },
    );
  }, recipe);
}

/** A recipe with all that was proposed. */
export function matched(recipe: Recipe, proposals: readonly Proposal[]): Recipe {
  return proposals.reduce(withProposal, recipe);
}
