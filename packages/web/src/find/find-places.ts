/** What can be found by its name: the controls of the bench, those of a dress from anywhere, and commands. */
import { COMMANDS } from '../commands/catalogue';
import { CONTROLS, SECTION_OF } from '../dress/dress-controls';
import { explanationOf } from '../bench/use-context-help';

export interface Place {
  /** the same for the same thing whenever the bench is drawn */
  readonly id: string;
  readonly label: string;
  /** where it stands: a part of the bench, another stage, or the key that does it */
  readonly where: string;
  readonly help: string;
  /** what there is to go to */
  readonly goes:
    | { readonly kind: 'control'; readonly section: string; readonly label: string }
    | { readonly kind: 'dress'; readonly section: string; readonly label: string }
    | { readonly kind: 'command'; readonly id: string };
}

/** What a control is called: by its own name, the label about it, or what is written on it. */
function labelOf(element: Element): string {
  const around = element.closest('label') ?? element.closest('.form-check')?.querySelector('label');
  // Texts of its parts stand beside each other: a name, a size.
  const parts = [...(around ?? element).childNodes].map((part) => part.textContent);
  const label = element.getAttribute('aria-label') ?? parts.join(' ');
  return label.replaceAll(/\s+/g, ' ').trim();
}

const sectionOf = (element: Element): string => element.closest('section')?.getAttribute('aria-label') ?? '';

/** Elements of a bench that can be found: what only accompanies another control, and headings that fold, cannot. */
function controlElements(bench: Element): Element[] {
  const all = bench.querySelectorAll('input, select, textarea, button');
  return [...all].filter((e) => !e.matches('[data-beside], .fold, [type=file]') && labelOf(e) !== '');
}

/** Controls of the bench as it stands, each once. */
export function placesOn(bench: Element): Place[] {
  const places = controlElements(bench).map((element): Place => {
    const label = labelOf(element);
    const section = sectionOf(element);
    const goes = { kind: 'control', section, label } as const;
    return { id: `${section}/${label}`, label, where: section, help: explanationOf(element), goes };
  });
  return [...new Map(places.map((p) => [p.id, p])).values()];
}

/** The element of a control, in a part of the bench. */
export function elementOf(bench: Element, section: string, label: string): HTMLElement | null {
  const found = controlElements(bench).find((e) => sectionOf(e) === section && labelOf(e) === label);
  return (found as HTMLElement | undefined) ?? null;
}

/** Numbers of a dress, for benches that do not show them. */
export function dressPlaces(): Place[] {
  return CONTROLS.map(({ part, label, help }): Place => {
    const section = SECTION_OF[part];
    return {
      id: `${section}/${label}`,
      label,
      where: `Dress, ${section}`,
      help,
      goes: { kind: 'dress', section, label },
    };
  });
}

export function commandPlaces(isReady: (id: string) => boolean): Place[] {
  return COMMANDS.filter((c) => isReady(c.id)).map((c): Place => ({
    id: `command/${c.id}`,
    label: c.title,
    where: c.keys,
    help: c.sentence ?? c.title,
    goes: { kind: 'command', id: c.id },
  }));
}

/** Half a step for a text whose words hold what is looked for, the other half where one of them begins with it. */
function tells(text: string, word: string): number {
  if (!text.includes(word)) return 0;
  return text.split(/[^\p{L}\p{N}]+/u).some((w) => w.startsWith(word)) ? 1 : 0.5;
}

/** How well a place answers what is looked for: 0 not at all; its name counts before where it stands and what it says. */
function answers(p: Place, words: readonly string[]): number {
  const [label, where, help] = [p.label, p.where, p.help].map((t) => t.toLowerCase()) as [string, string, string];
  const each = words.map((w) => {
    if (label.startsWith(w)) return 4;
    if (label.includes(w)) return 2 + tells(label, w);
    if (where.includes(w)) return 1 + tells(where, w);
    return tells(help, w);
  });
  return Math.min(...each) === 0 ? 0 : each.reduce((s: number, v) => s + v, 0);
}

/**
 * The places that answer all words of what is looked for, the best first; what was used lately while nothing is typed.
 * @param recent ids, the last used first
 */
export function found(places: readonly Place[], search: string, recent: readonly string[], most: number): Place[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return recent.flatMap((id) => places.filter((p) => p.id === id).slice(0, 1)).slice(0, most);
  return places
    .map((place) => ({ place, score: answers(place, words) }))
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score)
    .slice(0, most)
    .map(({ place }) => place);
}
