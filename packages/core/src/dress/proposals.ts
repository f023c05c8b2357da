/** Taking proposals into a dress. */
import type { Proposal } from './match';
import type { DressRecipe } from './layer/recipe';

/** What a person set beside something that was measured. */
function settings(part: object | undefined): object {
  return Object.fromEntries(Object.entries(part ?? {}).filter(([k]) => k !== 'measured' && k !== 'sync'));
}

function withProposal(dress: DressRecipe, { recipe }: Proposal): DressRecipe {
  const parts = Object.entries(recipe).map(([part, value]) => {
    const own = (dress as Record<string, object | undefined>)[part];
    return [part, Array.isArray(value) ? value : { ...settings(own), ...(value as object) }];
  });
  return { ...dress, ...Object.fromEntries(parts) };
}

/** A dress with all that was proposed: what was measured before gives way; what the person set beside it stays. */
export function withProposals(dress: DressRecipe, proposals: readonly Proposal[]): DressRecipe {
  return proposals.reduce(withProposal, dress);
}
