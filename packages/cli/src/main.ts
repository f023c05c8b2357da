/** `yarlop`: the jobs without browser, server or database. Exit status as the contract says: 0, 1, 2, 3, 130. */
import { Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import { ContractError } from '@yarlop/contracts/validate';
import { CoreError } from '@yarlop/core/errors';
import { MediaError } from '@yarlop/media/media-error';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { TRANSFER_TAGS } from '@yarlop/core/dress/transfer';
import { PASSES } from '@yarlop/core/dress/compose';
import { PRIMARIES_TAGS } from '@yarlop/core/dress/primaries';
import { ORIGINS, PIXEL_ORIGINS, UNITS } from '@yarlop/core/formats/conventions';
import { DATA_FORMATS } from '@yarlop/pipeline/deliver-job';
import { IMPORT_FORMATS } from '@yarlop/pipeline/track-file';
import { check } from './check';
import { deliver } from './deliver';
import { dressCommand } from './dress';
import { follow } from './follow';
import { importCommand } from './import';
import { probeCommand } from './probe';
import { proveCommand } from './prove';
import { interruption } from './interruption';

function whole(text: string): number {
  const n = Number(text);
  if (!/^-?\d+$/.test(text) || !Number.isSafeInteger(n)) throw new InvalidArgumentError('It must be a whole number.');
  return n;
}

function decimal(text: string): number {
  const n = Number(text);
  if (!(n > 0) || !Number.isFinite(n)) throw new InvalidArgumentError('It must be a number above 0.');
  return n;
}

function size(text: string): [number, number] {
  const m = /^(\d+)x(\d+)$/.exec(text);
  if (!m || Number(m[1]) < 1 || Number(m[2]) < 1)
    throw new InvalidArgumentError('It must be WIDTHxHEIGHT, such as 1920x1080.');
  return [Number(m[1]), Number(m[2])];
}

function pointList(text: string): [number, number][] {
  const points = text.split(';').map((p) => p.split(',').map(Number));
  if (points.length < 2 || points.some((p) => p.length !== 2 || !p.every(Number.isFinite)))
    throw new InvalidArgumentError('give two points or more as X,Y;X,Y.');
  return points as [number, number][];
}

function collect(value: string, before: string[] = []): string[] {
  return [...before, value];
}

const program = new Command('yarlop')
  .description('Follows screens through a shot, dresses them, and delivers track data.')
  .version('0.1.0')
  .exitOverride()
  .configureOutput({ writeErr: () => {} });

const run =
  (work: (...args: never[]) => Promise<number | void>) =>
  async (...args: unknown[]): Promise<void> => {
    process.exitCode = (await (work as (...a: unknown[]) => Promise<number | void>)(...args)) ?? 0;
  };

program
  .command('follow <PLATE>')
  .description('follows the Screen from its reference frame to both ends of the range')
  .requiredOption('--screen <SCREEN.json>', 'recipe of a Screen; may be given several times', collect)
  .requiredOption('--out <TRACK.json>', 'the track to write')
  .option('--from <N>', 'first frame of the range, inclusive', whole)
  .option('--to <N>', 'last frame of the range, inclusive', whole)
  .option('--progress', 'a line a second on standard error')
  .action(run(follow));

program
  .command('prove <PLATE>')
  .description('ranks frames by how far the picture slips from the track, and measures jitter')
  .requiredOption('--track <TRACK.json>', 'the track to prove')
  .option('--json', 'everything that was measured, as JSON')
  .action(run(proveCommand));

program
  .command('dress <PLATE>')
  .description('renders the finished picture, or the element with alpha')
  .requiredOption('--track <TRACK.json>', 'the track to dress')
  .requiredOption('--screen <SCREEN.json>', 'recipe of a Screen; may be given several times', collect)
  .option(
    '--fill <FILE>',
    'picture or clip, or NAME=FILE with several Screens; the background where the fill is made up',
    collect,
  )
  .option('--foreground <FILE>', 'the clip before a made-up fill, or NAME=FILE', collect)
  .option('--fill-table <FILE.cube>', 'colour table that the fill goes through first, or NAME=FILE', collect)
  .requiredOption('--out <FILE>', '.mp4, .mov, .webm, or a pattern NAME.%04d.png, .tiff or .exr (scene-linear)')
  .option('--element', 'the fill alone with straight alpha')
  .addOption(
    new Option('--show <WHAT>', 'the finished picture, a part of it, or a pass that adds up to it (.exr)')
      .choices(['dressed', 'element', 'matte', 'clean', ...PASSES])
      .conflicts('element'),
  )
  .option('--from <N>', 'first frame, the first of the plate being 0', whole)
  .option('--to <N>', 'last frame', whole)
  .option('--loop <N>', 'the range is a loop: its last N frames fade into those before its first; 0 for a cut', whole)
  .option('--premultiplied', 'with --element: alpha multiplied into the colours')
  .option('--full-float', 'with .exr: 32 bits a channel instead of 16')
  .addOption(
    new Option('--plate-transfer <TAG>', "the plate's transfer function, instead of its tag").choices(TRANSFER_TAGS),
  )
  .addOption(new Option('--plate-primaries <TAG>', "the plate's primaries, instead of its tag").choices(PRIMARIES_TAGS))
  .action(run(dressCommand));

const conventions = (c: Command): Command =>
  c
    .addOption(new Option('--origin <ORIGIN>', 'where coordinates start').choices([...ORIGINS]).default('top-left'))
    .addOption(
      new Option('--units <UNITS>', 'pixels, or shares of width and height').choices([...UNITS]).default('pixels'),
    )
    .addOption(
      new Option('--pixel-origin <ORIGIN>', 'what whole numbers mean').choices([...PIXEL_ORIGINS]).default('corner'),
    )
    .option('--first-frame <N>', 'label of frame 0', whole)
    .option('--size <WxH>', 'scale coordinates to a picture of this size', size);

conventions(
  program
    .command('deliver')
    .description('writes track data in an open format')
    .requiredOption('--track <TRACK.json>', 'the track')
    .requiredOption('--as <FORMAT>', DATA_FORMATS.join(', '))
    .requiredOption(
      '--out <PATH>',
      'the file to write; a pattern such as NAME.%04d.exr for stmap, stmap-inverse and matte',
    )
    .option('--plate <PLATE>', 'checked against the track; shown in html and report, keyed for matte')
    .option('--invert', 'matrices from the frame to the reference; transforms that hold the Screen still')
    .option('--content <WxH>', 'px of the content, for html and css; as large as the pin when left out', size)
    .option('--fill <FILE>', 'picture or clip that html plays, or NAME=FILE', collect)
    .option('--plate-behind', 'with gltf and --plate: pictures of the plate behind the scene')
    .option(
      '--points <X,Y;X,Y>',
      'with transform-csv and -json: points of the Screen, px of the plate on the reference frame, that position, scale and rotation go by',
      pointList,
    )
    .option('--focal <N>', 'focal length for gltf and usda, picture widths; told from the views when left out', decimal)
    .option('--device-height <M>', 'height of the lit part of the device for gltf and usda, metres', decimal)
    .option('--overscan <PX>', 'maps go on beyond the picture by so many px on every side', whole)
    .option('--crop <PX>', 'maps are cut to the Screen and so many px about it, one rectangle for the shot', whole)
    .option('--half', 'maps of half floats instead of 32 bits')
    .option('--dressed', 'corners as the dressed fill has them: placement, offset and lift taken in (with --screen)')
    .addOption(
      new Option('--at <MOMENT>', "corners as the shutter opens or closes, instead of at the frame's middle").choices([
        'open',
        'close',
      ]),
    )
    .option('--parts <FORMATS>', 'what a package holds, separated by commas')
    .option('--screen <SCREEN.json>', 'delivers only the Screens named in these recipes', collect),
).action(run(deliver));

program
  .command('import <FILE>')
  .description('reads corner data back into a track')
  .requiredOption('--as <FORMAT>', IMPORT_FORMATS.join(', '))
  .requiredOption('--out <TRACK.json>', 'the track to write')
  .action(run(importCommand));

program
  .command('check <FILE>')
  .description('validates a screen or track file and says where each fault is')
  .action(run(check));
program
  .command('probe <PLATE>')
  .description('size, rate, frames, start timecode, colour tags')
  .action(run(probeCommand));

for (const c of program.commands) c.exitOverride().configureOutput({ writeErr: () => {} });

/** Whose fault an error is: 2 the call or an input file, 1 the job. */
function statusOf(e: unknown): number {
  if (e instanceof CommanderError) return e.exitCode === 0 ? 0 : 2;
  if (interruption.requested) return 130;
  if (e instanceof InputError || e instanceof ContractError || e instanceof CoreError) return 2;
  if (e instanceof MediaError) return e.code === 'tool' ? 1 : 2;
  return 1;
}

try {
  await program.parseAsync();
} catch (e) {
  process.exitCode = statusOf(e);
  if (process.exitCode !== 0)
    process.stderr.write(`yarlop: ${(e as Error).message.replace(/^error: /, '').split('\n')[0]}\n`);
}
