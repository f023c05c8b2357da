import type { ProposedScreen } from '@yarlop/core/propose/screens-seen';
import { screensSeen } from '@yarlop/core/propose/screens-seen';
import { decodeRgb } from '@yarlop/media/decode';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate } from '@yarlop/pipeline/plate';

export interface ProposeOptions {
  frame?: number;
  json?: boolean;
}

/** px and scores are told to this many decimals. */
const DECIMALS = 3;

const rounded = (v: number): number => Number(v.toFixed(DECIMALS));

function asText(frame: number, proposals: readonly ProposedScreen[]): string {
  if (proposals.length === 0) return `frame ${frame}: nothing looks like a screen; set its corners by hand`;
  const lines = proposals.map(({ corners, device, kind, score }, i) => {
    const places = corners.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join('  ');
    return `  ${i + 1}  ${kind} ${device}  ${score.toFixed(2)}  ${places}`;
  });
  return [`frame ${frame}: kind, device, score, corners TL TR BR BL`, ...lines].join('\n');
}

/** Quads of screens that are seen on a frame, best first. */
export async function proposeCommand(path: string, { frame = 0, json = false }: ProposeOptions): Promise<void> {
  const plate = await openPlate(path);
  try {
    const { probe, source } = plate;
    if (frame < 0 || frame >= probe.frameCount)
      throw new InputError(
        `--frame ${frame} lies outside the plate, which has frames 0 to ${probe.frameCount - 1}; choose one of them.`,
      );
    const pictures = decodeRgb(source, probe, { from: frame, count: 1, seekable: false });
    const { value } = await pictures.next();
    if (!value) throw new InputError(`Frame ${frame} of ${path} cannot be decoded; copy or export the plate again.`);
    await pictures.return(undefined);
    const proposals = screensSeen(value);
    const told = proposals.map((p) => ({
      corners: p.corners.map((c) => c.map(rounded)),
      device: p.device,
      kind: p.kind,
      score: rounded(p.score),
    }));
    process.stdout.write(`${json ? JSON.stringify({ frame, proposals: told }, null, 2) : asText(frame, proposals)}\n`);
  } finally {
    await plate.close();
  }
}
