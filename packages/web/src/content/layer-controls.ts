/** The numbers of each kind of layer, as their controls show them. */
import type { ContentLayer } from '@yarlop/core/dress/content/layers';
import { LAYER_SIZES } from '@yarlop/core/dress/content/layers';
import { pieceOf } from '@yarlop/core/dress/content/pieces';

export interface LayerControl {
  readonly field: string;
  readonly label: string;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly base: number;
  readonly help: string;
}

const control = (
  field: string,
  label: string,
  [min, max, step]: readonly [number, number, number],
  base: number,
  help: string,
): LayerControl => ({ field, label, min, max, step, base, help });

const PLACE: readonly LayerControl[] = [
  control('x', 'Across', [-1, 2, 0.005], 0.5, 'Where its middle stands, shares of the width'),
  control('y', 'Down', [-1, 2, 0.005], 0.5, 'Where its middle stands, shares of the height'),
  control('turn', 'Turn', [-180, 180, 0.5], 0, 'Degrees, clockwise'),
  control('scale', 'Scale', [0.02, 8, 0.01], 1, 'Of the whole layer; its height alone where that was scaled by itself'),
  control('opacity', 'Opacity', [0, 1, 0.01], 1, 'How much of it shows'),
];

const size = (help: string, base: number): LayerControl => control('size', 'Size', [0.01, 3, 0.005], base, help);

const OF_SHAPE: readonly LayerControl[] = [
  control('width', 'Width', [0.005, 4, 0.005], LAYER_SIZES.shape, 'In heights of the content'),
  control('height', 'Height', [0.005, 4, 0.005], LAYER_SIZES.shape, 'In heights of the content'),
  control('round', 'Roundness', [0, 1, 0.01], 0, 'Of the corners of a box: 1 rounds its shorter sides whole'),
  control('line', 'Line', [0, 0.5, 0.002], 0, 'Thickness of its line; filled at 0'),
];

function ofPiece(l: ContentLayer & { readonly kind: 'piece' }): LayerControl[] {
  const { amount } = pieceOf(l.piece);
  const own = size('Its height, in heights of the content', LAYER_SIZES.piece);
  if (!amount) return [own];
  const { label, base, min, max, step, help } = amount;
  return [own, control('amount', label, [min, max, step], base, help)];
}

/** The controls of a layer: what it is first, then where. */
export function controlsOf(l: ContentLayer): readonly LayerControl[] {
  if (l.kind === 'shape') return [...OF_SHAPE, ...PLACE];
  if (l.kind === 'piece') return [...ofPiece(l), ...PLACE];
  const help = l.kind === 'words' ? 'Height of the letters' : 'Its height';
  return [size(`${help}, in heights of the content`, LAYER_SIZES[l.kind]), ...PLACE];
}
