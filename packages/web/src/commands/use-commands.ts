/** Who can do what at present: parts of the page offer commands while they are there; keys, buttons and the help ask for them. */
import { onScopeDispose, shallowReactive } from 'vue';
import { sentenceOf } from './catalogue';

interface Offer {
  readonly run: () => void;
  readonly isReady: () => boolean;
}

/** By command, of all that are there; the one that came last does it. */
const offers = shallowReactive(new Map<string, readonly Offer[]>());

/**
 * Offers a command for as long as the caller is there.
 * @param isReady whether it can be done now
 * @throws for an id that is not in the catalogue
 */
export function provideCommand(id: string, run: () => unknown, isReady: () => boolean = () => true): void {
  sentenceOf(id);
  const offer = { run: () => void run(), isReady };
  offers.set(id, [...(offers.get(id) ?? []), offer]);
  // Who offered it before does it again.
  onScopeDispose(() =>
    offers.set(
      id,
      offers.get(id)!.filter((o) => o !== offer),
    ),
  );
}

/** Whether a command can be done now. */
export function isReady(id: string): boolean {
  return offers.get(id)?.at(-1)?.isReady() ?? false;
}

/** Does a command; nothing where it cannot be done now. */
export function perform(id: string): void {
  if (isReady(id)) offers.get(id)!.at(-1)!.run();
}
