/** Taking proposals into a dress. */
import type { Proposal } from './match';
import type { Holdout } from './holdout/holdout';
import type { DressRecipe } from './layer/recipe';

/** What a person set beside something that was measured. */
function settings(part: object | undefined): object {
  return Object.fromEntries(Object.entries(part ?? {}).filter(([k]) => k !== 'measured' && k !== 'sync'));
}

/** What was measured of one kind gives way to what is now; what a person drew stays. */
function withHoldouts(own: readonly Holdout[], measured: readonly Holdout[]): readonly Holdout[] {
  const kinds = new Set(measured.map((h) => h.kind));
  return [...measured, ...own.filter((h) => !kinds.has(h.kind))];
}

function withProposal(dress: DressRecipe, { recipe }: Proposal): DressRecipe {
  const parts = Object.entries(recipe).map(([part, value]) => {
    const own = (dress as Record<string, object | undefined>)[part];
    if (part === 'holdouts')
      return [part, withHoldouts((own ?? []) as readonly Holdout[], value as readonly Holdout[])];
    return [part, Array.isArray(value) ? value : { ...settings(own), ...(value as object) }];
  });
  return { ...dress, ...Object.fromEntries(parts) };
}

/** A dress with all that was proposed: what was measured before gives way; what the person set beside it stays. */
export function withProposals(dress: DressRecipe, proposals: readonly Proposal[]): DressRecipe {
  return proposals.reduce(withProposal, dress);
}
