/** What made-up content begins with: a document, and each kind of layer as it is added. */
import { PIECE_COLOURS, WHITE } from './layer-parts';
import type { ContentLayer } from './layers';
import type { MadeFill } from './made-fill';
import type { PieceKind } from './pieces';

export type NewLayer = 'words' | 'box' | 'oval' | 'picture' | PieceKind;

const MIDDLE = { x: 0.5, y: 0.5 } as const;

/** A document with some layers on a ground of its own. @param proportions width by height that it is made for */
export function newDocument(proportions: number, layers: readonly ContentLayer[]): MadeFill {
  return { ground: [0.07, 0.17, 0.2], layers, proportions };
}

/** A new layer in the middle. @param media a file of the library, for a picture */
export function newLayer(what: NewLayer, media: string): ContentLayer {
  switch (what) {
    case 'words':
      return { kind: 'words', text: 'Gale warning', font: 'sans bold', size: 0.12, colour: WHITE, ...MIDDLE };
    case 'box':
      return {
        kind: 'shape',
        shape: 'box',
        width: 0.5,
        height: 0.3,
        round: 0.2,
        colour: PIECE_COLOURS.colour,
        ...MIDDLE,
      };
    case 'oval':
      return { kind: 'shape', shape: 'oval', width: 0.3, height: 0.3, colour: PIECE_COLOURS.colour, ...MIDDLE };
    case 'picture':
      return { kind: 'picture', media, size: 1, ...MIDDLE };
    default:
      return { kind: 'piece', piece: what, size: 0.35, ...MIDDLE };
  }
}
