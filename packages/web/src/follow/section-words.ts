/** What a section of frames does otherwise, in words. */
import type { FrameSpan } from '@yarlop/core/frame-ranges';
import type { Section, Ways } from '../edits/use-ways';

const EVIDENCE: Readonly<Record<string, string>> = {
  auto: 'what the frame offers',
  texture: 'the picture alone',
  edges: 'edges alone',
  'texture,edges': 'picture and edges',
  spots: 'spots alone',
  hand: 'by hand alone',
};
const LEVELS = { cells: 'light changes anywhere', screen: 'light changes as a whole', fixed: 'steady light' } as const;

const READINGS = {
  auto: 'read as is clearest',
  luma: 'read as luma',
  red: 'read in red',
  green: 'read in green',
  blue: 'read in blue',
} as const;

function outlines(n: number): string {
  if (n === 0) return 'no outlines';
  return n === 1 ? 'one outline' : `${n} outlines`;
}

function evidenceWords(evidence: NonNullable<Ways['evidence']>): string {
  const key = Array.isArray(evidence) ? evidence.join(',') : evidence;
  return EVIDENCE[key] ?? key;
}

export function wordsOf({ patches, motion, evidence, density, reading, levels, lens, over }: Section): string {
  const words = [
    over ? 'on the steadied plate' : '',
    patches ? outlines(patches.length) : '',
    motion ?? '',
    evidence ? evidenceWords(evidence) : '',
    density ? `${density} cells` : '',
    reading ? READINGS[reading] : '',
    levels ? LEVELS[levels] : '',
    typeof lens === 'number' ? `lens ${lens}` : '',
    lens === 'auto' ? 'lens as found' : '',
  ];
  return words.filter((w) => w !== '').join(', ');
}

/** What has to be followed again. @param isPart other frames are as the recipe says */
export function outdatedWords(stale: readonly FrameSpan[], isPart: boolean): string {
  if (!isPart)
    return 'The outline or the settings changed since this was followed, or Yarlop follows better by now. Follow again.';
  const ranges = stale.map(({ from, to }) => (from === to ? `${from}` : `${from} to ${to}`)).join(', ');
  return `Outlines or settings changed on the frames ${ranges} (hatched in the strip); all others keep what they have. Follow again.`;
}
