/**
 * Everything that can be handed over, from one catalogue (`catalogue/formats.json`): the requests' schema, the command
 * line's help, the names of files and the menus all come from it. A new format is a line there, and a file that writes it.
 */
import { CATALOGUE } from './generated/formats';

type Entry = (typeof CATALOGUE)[number];
export type FormatId = Entry['id'];
/**
 * One text; a picture a frame; the plate's own pictures bent; a clip; pictures as a sequence; several files in one; a
 * table whose lines are the person's own.
 */
export type FormatKind = Entry['kind'];
export type IdOf<K extends FormatKind> = Extract<Entry, { readonly kind: K }>['id'];
type Able<E, W extends string> = E extends { readonly id: infer I; readonly can: readonly (infer C)[] }
  ? W extends C
    ? I
    : never
  : never;
/** Texts that tracks are read back from. */
export type ReadId = Able<Entry, 'read'>;

/**
 * - alpha, sound: carries them
 * - floats: holds light below black and beyond white
 * - joined: clips of it are joined without a loss
 * - conventions: coordinates stand in it, so that their convention matters
 * - invert: can be written the other way round
 * - points: goes by points of the plane
 * - scene: is a scene with a camera
 * - read, readPictures: tracks are read back from it, as a text or from its pictures
 * - usual: a package holds it when nothing was chosen
 */
export type Ability =
  | 'alpha'
  | 'sound'
  | 'floats'
  | 'joined'
  | 'conventions'
  | 'invert'
  | 'points'
  | 'scene'
  | 'read'
  | 'readPictures'
  | 'usual';

export interface DeliveryFormat {
  readonly id: FormatId;
  readonly kind: FormatKind;
  /** of the menu that it stands in */
  readonly group: string;
  readonly name: string;
  /** what it is for, in a sentence */
  readonly what: string;
  /** what a package's README says of it; left out where a package holds none */
  readonly packaged?: string;
  /** of a single file of it */
  readonly extension?: string;
  /** what the name of a delivery ends with */
  readonly ending: string;
  readonly can?: readonly Ability[];
}

export const FORMATS: readonly DeliveryFormat[] = CATALOGUE;
const BY_ID: ReadonlyMap<string, DeliveryFormat> = new Map(FORMATS.map((f) => [f.id, f]));

/** @throws RangeError for what stands in no catalogue */
export function formatOf(id: string): DeliveryFormat {
  const format = BY_ID.get(id);
  if (!format) throw new RangeError(`"${id}" is no format.`);
  return format;
}

/** Of one kind, in the catalogue's order. */
export function idsOf<K extends FormatKind>(...kinds: readonly K[]): readonly IdOf<K>[] {
  return FORMATS.filter((f) => (kinds as readonly string[]).includes(f.kind)).map((f) => f.id as IdOf<K>);
}

export function isOf<K extends FormatKind>(id: string, ...kinds: readonly K[]): id is IdOf<K> {
  return (kinds as readonly (string | undefined)[]).includes(BY_ID.get(id)?.kind);
}

export function can(id: string, ability: Ability): boolean {
  return BY_ID.get(id)?.can?.includes(ability) ?? false;
}
