/** `yarlop`: the jobs without browser, server or database. Exit status as the contract says: 0, 1, 2, 3, 130. */
import { Command, InvalidArgumentError, Option } from 'commander';
import { TRANSFER_TAGS } from '@yarlop/core/dress/colour/transfer';
import { PARTS } from '@yarlop/core/dress/match';
import { PASSES } from '@yarlop/core/dress/layer/compose';
import { PRIMARIES_TAGS } from '@yarlop/core/dress/colour/primaries';
import { CAMERA_EXPORTS } from '@yarlop/core/formats/camera-formats';
import { ORIGINS, PIXEL_ORIGINS, UNITS } from '@yarlop/core/formats/conventions';
import { DATA_FORMATS } from '@yarlop/pipeline/deliver-job';
import { IMPORT_FORMATS } from '@yarlop/pipeline/track-file';
import { batchCommand, projectCommand } from './batch';
import { cameraCommand } from './camera';
import { exportCamera } from './export-camera';
import { check } from './check';
import { deliver } from './deliver';
import { dressCommand } from './dress';
import { follow } from './follow';
import { importCommand } from './import';
import { matchCommand } from './match';
import { probeCommand } from './probe';
import { proposeCommand } from './propose';
import { proveCommand } from './prove';
import { repairCommand } from './repair';
import { statusOf } from './status';
import { VERSION } from './version';

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

function radialTerms(text: string): number[] {
  const all = text.split(',').map(Number);
  if (all.length !== 2 || !all.every((k) => Number.isFinite(k) && Math.abs(k) <= 1))
    throw new InvalidArgumentError('give two numbers from -1 to 1 as K1,K2.');
  return all;
}

function numberList(text: string): number[] {
  const all = text.split(',').map(Number);
  if (all.length < 3 || !all.every(Number.isFinite))
    throw new InvalidArgumentError('give three numbers or more, separated by commas.');
  return all;
}

function collect(value: string, before: string[] = []): string[] {
  return [...before, value];
}

const program = new Command('yarlop')
  .description('Follows screens through a shot, dresses them, and delivers track data.')
  .version(VERSION)
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
  .option('--camera <CAMERA.json>', 'camera of the scene, as a further evidence of Screens that stand still in it')
  .option('--from <N>', 'first frame of the range, inclusive', whole)
  .option('--to <N>', 'last frame of the range, inclusive', whole)
  .option('--progress', 'a line a second on standard error')
  .action(run(follow));

program
  .command('camera <PLATE>')
  .description('solves the camera of the whole scene: where it stands and looks on every frame, focal length, lens')
  .requiredOption('--out <CAMERA.json>', 'the camera to write')
  .option(
    '--ignore <SCREEN.json>',
    'a Screen that moves by itself and is left out; may be given several times',
    collect,
  )
  .option('--focal <PX>', 'focal length in px of the plate, where it is known', decimal)
  .option(
    '--lens <K1,K2>',
    'radial terms of the lens by the half diagonal, where they are known; 0,0 for none',
    radialTerms,
  )
  .option('--tripod', 'the camera only turns; told from the shot when left out')
  .option('--from <N>', 'first frame of the range, inclusive', whole)
  .option('--to <N>', 'last frame of the range, inclusive', whole)
  .option('--progress', 'a line a second on standard error')
  .action(run(cameraCommand));

program
  .command('export-camera <CAMERA.json>')
  .description('writes a solved camera in an open format, set into a world of your own')
  .requiredOption('--as <FORMAT>', CAMERA_EXPORTS.map((f) => f.id).join(', '))
  .requiredOption('--out <PATH>', 'the file to write; a pattern such as lens.%04d.exr for the maps of the lens')
  .option('--plate <PLATE>', 'with gltf: pictures of the plate behind the scene')
  .option('--ground <ID,ID,ID>', 'points that lie on the ground, by their numbers', numberList)
  .option('--origin <ID>', "the point that becomes the origin; the ground's middle when left out", whole)
  .option('--length <ID,ID,METRES>', 'two points and how far they are apart', numberList)
  .action(run(exportCamera));

program
  .command('prove <PLATE>')
  .description('ranks frames by how far the picture slips from the track, and measures jitter')
  .requiredOption('--track <TRACK.json>', 'the track to prove')
  .option('--json', 'everything that was measured, as JSON')
  .action(run(proveCommand));

program
  .command('repair <PLATE>')
  .description('plans the fewest touch-ups that bring every slip under a limit, and writes the recipe that has them')
  .requiredOption('--track <TRACK.json>', 'the track to repair')
  .requiredOption('--screen <SCREEN.json>', 'the recipe that it was made with')
  .option('--out <SCREEN.json>', 'the repaired recipe')
  .option('--out-track <TRACK.json>', 'the repaired track, beside the recipe')
  .option('--under <PX>', 'px at 1920 wide under which a slip may stay', decimal, 1)
  .option('--plan', 'prints the plan and writes nothing')
  .option('--json', 'the plan as JSON')
  .option('--progress', 'a line a second on standard error')
  .action(run(repairCommand));

program
  .command('match <PLATE>')
  .description('measures the plate, and writes the recipe with the dress that is proposed')
  .requiredOption('--track <TRACK.json>', 'the track of the Screen')
  .requiredOption('--screen <SCREEN.json>', 'its recipe')
  .option('--fill <FILE>', 'the fill that it is for; checked to be there')
  .requiredOption('--out <SCREEN.json>', 'the recipe with its dress')
  .option('--only <PARTS>', `parts that are taken, separated by commas: ${PARTS.join(', ')}`)
  .option('--json', 'the proposals as JSON')
  .option('--progress', 'a line a second on standard error')
  .action(run(matchCommand));

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
  .option('--picture <HASH=FILE>', 'a picture or clip that layers of made-up content show, by its hash', collect)
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

const wholeJob = (c: Command): Command =>
  c.option('--list', 'prints the steps and does nothing').option('--progress', 'a line a second on standard error');

wholeJob(
  program
    .command('project <FILE>')
    .description(
      'one shot from its plate to what is delivered, as a YAML or JSON file says; goes on where it was cut off',
    ),
).action(run(projectCommand));

wholeJob(
  program
    .command('batch <FILE>')
    .description('shots by fills by formats, as a YAML or JSON file says; goes on where it was cut off'),
).action(run(batchCommand));

program
  .command('check <FILE>')
  .description('validates a screen, track, project or batch file and says where each fault is')
  .action(run(check));
program
  .command('propose <PLATE>')
  .description('outlines the screens that are seen on a frame, best first: corners, device, kind, score')
  .option('--frame <N>', 'frame to look at, the first of the plate being 0', whole)
  .option('--json', 'the proposals as JSON')
  .action(run(proposeCommand));
program
  .command('probe <PLATE>')
  .description('size, rate, frames, start timecode, colour tags')
  .action(run(probeCommand));

for (const c of program.commands) c.exitOverride().configureOutput({ writeErr: () => {} });

try {
  await program.parseAsync();
} catch (e) {
  process.exitCode = statusOf(e);
  if (process.exitCode !== 0)
    process.stderr.write(`yarlop: ${(e as Error).message.replace(/^error: /, '').split('\n')[0]}\n`);
}
