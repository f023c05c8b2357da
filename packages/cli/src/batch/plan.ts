/**
 * What a batch comes to: steps in order, each with the files that it reads and those that it writes. A shot is followed
 * once, whatever is made of it; each of its fills is matched and rendered by itself.
 */
import type { DeliveryFormat } from '@yarlop/contracts/formats';
import { FORMATS } from '@yarlop/contracts/formats';
import type { BatchFile, ScreenFile } from '@yarlop/contracts/validate';
import { DATA_FORMATS } from '@yarlop/pipeline/deliver-job';
import { fileSafe, patternFor } from '@yarlop/pipeline/deliver-maps';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { dirname, join, relative, resolve } from 'node:path';
import { deliver } from '../deliver';
import { dressCommand } from '../dress';
import { follow } from '../follow';
import { matchCommand } from '../match';
import { repairCommand } from '../repair';

type Shot = BatchFile['shots'][number];
type Output = BatchFile['deliver'][number];
type Fill = NonNullable<BatchFile['fills']>[number];

export interface Step {
  /** the shot and what is done, as it is told */
  readonly id: string;
  /** files that it reads, those of earlier steps among them */
  readonly inputs: readonly string[];
  /** what else it depends on */
  readonly settings: unknown;
  readonly outputs: readonly string[];
  /** @returns an exit status */
  run(): Promise<number>;
}

/** A batch whose Screens are read. */
export interface Batch {
  readonly file: BatchFile;
  /** folder of the file: paths are beside it */
  readonly folder: string;
  /** recipes by their path */
  readonly screens: ReadonlyMap<string, ScreenFile>;
  readonly progress: boolean;
}

/** A recipe and the file that it stands in by now. */
interface Recipe {
  readonly name: string;
  readonly path: string;
}

/** A shot while its steps are planned. */
interface Course {
  readonly shot: Shot;
  readonly plate: string;
  readonly folder: string;
  readonly track: string;
  readonly recipes: readonly Recipe[];
}

/** Pictures that the command line writes. */
const PICTURES: readonly DeliveryFormat[] = FORMATS.filter(
  (f) => (f.kind === 'clip' || f.kind === 'sequence') && f.extension === f.id,
);

function pictureFormat(as: string): DeliveryFormat | undefined {
  return PICTURES.find((f) => f.id === as);
}

/** Whether it is a picture a frame for each Screen. */
function isMap(as: string): boolean {
  return FORMATS.some((f) => f.id === as && f.kind === 'maps');
}

/** Whether it differs from fill to fill. */
function isOfFill({ as, dressed }: Output): boolean {
  return pictureFormat(as) !== undefined || dressed === true;
}

/** @throws InputError for a format that there is not */
function assertOutput({ as }: Output): void {
  if (pictureFormat(as) || (DATA_FORMATS as readonly string[]).includes(as)) return;
  throw new InputError(
    `deliver names the format "${as}", which is not known; use one of ${[...PICTURES.map((f) => f.id), ...DATA_FORMATS].join(', ')}.`,
  );
}

/** Where something goes when nothing is said of it. */
function usualFile(output: Output): string {
  const { as } = output;
  const below = isOfFill(output) ? '{shot}/{fill}' : '{shot}';
  const format = FORMATS.find((f) => f.id === as)!;
  const ending = output.element && format.kind !== 'sequence' ? `element.${format.extension}` : format.extension;
  if (format.kind === 'sequence') return `${below}/${output.element ? 'element-' : ''}${as}/{shot}.%04d.${as}`;
  if (isMap(as)) return `${below}/${as}/{shot}.%04d.exr`;
  if (pictureFormat(as)) return `${below}/{shot}.${ending}`;
  return `${below}/{shot}.${format.ending}`;
}

/** @throws InputError for a path that leaves the folder */
function fileOf(output: Output, out: string, shot: string, fill: string): string {
  const pattern = output.file ?? usualFile(output);
  const named = pattern.replaceAll('{shot}', shot).replaceAll('{fill}', fill).replaceAll('{as}', output.as);
  const path = resolve(out, named);
  if (relative(out, path).startsWith('..'))
    throw new InputError(`the file "${pattern}" leaves the folder ${out}; name a place below it.`);
  return path;
}

function sizeOf(text: string | undefined): { size?: [number, number] } {
  const m = /^(\d+)x(\d+)$/.exec(text ?? '');
  return m ? { size: [Number(m[1]), Number(m[2])] } : {};
}

/** Options that the command line leaves out, left out. */
function given<T extends object>(o: T): { [K in keyof T]?: NonNullable<T[K]> } {
  return Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as never;
}

function followStep({ shot, plate, track, recipes }: Course, progress: boolean): Step {
  const screen = recipes.map((r) => r.path);
  const range = given({ from: shot.from, to: shot.to });
  return {
    id: `${shot.name}: follow`,
    inputs: [plate, ...screen],
    settings: range,
    outputs: [track],
    run: () => follow(plate, { screen, out: track, ...range, progress }),
  };
}

/** Repairs one Screen after the other; each goes on with the track that the one before left. */
function repairSteps(course: Course, under: number, progress: boolean): { steps: Step[]; course: Course } {
  const steps: Step[] = [];
  let { track } = course;
  const recipes = course.recipes.map((r, i): Recipe => {
    const before = track;
    const path = join(course.folder, 'repaired', `${fileSafe(r.name)}.screen.json`);
    const outTrack = join(course.folder, 'repaired', `${course.shot.name}.${i + 1}.track.json`);
    track = outTrack;
    steps.push({
      id: `${course.shot.name}: repair ${r.name}`,
      inputs: [course.plate, before, r.path],
      settings: { under },
      outputs: [path, outTrack],
      run: () => repairCommand(course.plate, { track: before, screen: r.path, out: path, outTrack, under, progress }),
    });
    return { name: r.name, path };
  });
  return { steps, course: { ...course, track, recipes } };
}

function matchSteps(course: Course, fill: Fill, only: readonly string[] | null, progress: boolean): Step[] {
  return course.recipes.map((r) => {
    const out = matchedPath(course, fill, r);
    return {
      id: `${course.shot.name}, ${fill.name}: match ${r.name}`,
      inputs: [course.plate, course.track, r.path],
      settings: { only },
      outputs: [out],
      run: () =>
        matchCommand(course.plate, {
          track: course.track,
          screen: r.path,
          out,
          progress,
          ...(only ? { only: only.join(',') } : {}),
        }),
    };
  });
}

function matchedPath(course: Course, fill: Fill, r: Recipe): string {
  return join(course.folder, fill.name, `${fileSafe(r.name)}.screen.json`);
}

function dataStep(course: Course, output: Output, out: string, id: string): Step {
  const { as, element: _element, file: _file, size, ...conventions } = output;
  const screen = course.recipes.map((r) => r.path);
  return {
    id: `${id}: ${as}`,
    inputs: [course.plate, course.track, ...screen],
    settings: { ...output, out },
    outputs: isMap(as) ? course.recipes.map((r) => patternFor(out, r.name, course.recipes.length > 1)) : [out],
    run: () =>
      deliver({
        origin: 'top-left',
        units: 'pixels',
        pixelOrigin: 'corner',
        ...conventions,
        ...sizeOf(size),
        track: course.track,
        plate: course.plate,
        screen,
        as,
        out,
      }),
  };
}

function pictureStep(
  course: Course,
  output: Output,
  fills: ReadonlyMap<string, string>,
  out: string,
  id: string,
): Step {
  const own = course.recipes.filter((r) => fills.has(r.name));
  const screen = own.map((r) => r.path);
  const fill = own.map((r) => `${r.name}=${fills.get(r.name)!}`);
  const range = given({ from: course.shot.from, to: course.shot.to });
  return {
    id: `${id}: ${output.element ? 'element as ' : ''}${output.as}`,
    inputs: [course.plate, course.track, ...screen, ...fills.values()],
    settings: { ...output, ...range, out },
    outputs: [out],
    run: () =>
      dressCommand(course.plate, {
        track: course.track,
        screen,
        fill,
        out,
        element: output.element ?? false,
        ...range,
      }),
  };
}

/** Fills of a shot by Screen. @throws InputError for a Screen that the shot has not */
function fillsOf({ by, name }: Fill, { shot, recipes }: Course, folder: string): Map<string, string> {
  if (typeof by === 'string') return new Map(recipes.map((r) => [r.name, resolve(folder, by)]));
  const names = recipes.map((r) => r.name);
  const used = Object.entries(by).filter(([n]) => names.includes(n));
  if (used.length === 0)
    throw new InputError(
      `the fill "${name}" is for ${Object.keys(by)
        .map((n) => `"${n}"`)
        .join(
          ', ',
        )}, but the shot "${shot.name}" has ${names.map((n) => `"${n}"`).join(', ')}; name one of its Screens.`,
    );
  return new Map(used.map(([n, file]) => [n, resolve(folder, file)]));
}

function fillSteps(course: Course, fill: Fill, { file, folder, progress }: Batch): Step[] {
  const { shot } = course;
  const out = resolve(folder, file.out);
  const fills = fillsOf(fill, course, folder);
  const own = { ...course, recipes: course.recipes.filter((r) => fills.has(r.name)) };
  const only = Array.isArray(file.match) ? file.match : null;
  const steps = file.match ? matchSteps(own, fill, only, progress) : [];
  const dressed = file.match
    ? { ...own, recipes: own.recipes.map((r) => ({ ...r, path: matchedPath(own, fill, r) })) }
    : own;
  const id = `${shot.name}, ${fill.name}`;
  const outputs = file.deliver.filter(isOfFill).map((output) => {
    const to = fileOf(output, out, shot.name, fill.name);
    return pictureFormat(output.as) ? pictureStep(dressed, output, fills, to, id) : dataStep(dressed, output, to, id);
  });
  return [...steps, ...outputs];
}

function shotSteps(shot: Shot, batch: Batch): Step[] {
  const { file, folder, screens, progress } = batch;
  const out = resolve(folder, file.out);
  const own = join(out, shot.name);
  const start: Course = {
    shot,
    plate: resolve(folder, shot.plate),
    folder: own,
    track: join(own, `${shot.name}.track.json`),
    recipes: shot.screens.map((s) => ({ name: screens.get(resolve(folder, s))!.name, path: resolve(folder, s) })),
  };
  const { steps, course } = file.repair
    ? repairSteps(start, file.repair.under, progress)
    : { steps: [], course: start };
  const data = file.deliver
    .filter((o) => !isOfFill(o))
    .map((o) => dataStep(course, o, fileOf(o, out, shot.name, ''), shot.name));
  return [
    followStep(start, progress),
    ...steps,
    ...data,
    ...(file.fills ?? []).flatMap((f) => fillSteps(course, f, batch)),
  ];
}

/** @throws InputError for what cannot be done, before anything is */
export function stepsOf(batch: Batch): Step[] {
  const { file } = batch;
  file.deliver.forEach(assertOutput);
  if (!file.fills && file.deliver.some(isOfFill))
    throw new InputError('finished pictures are to be delivered, but no fill is named; add "fills".');
  const steps = file.shots.flatMap((shot) => shotSteps(shot, batch));
  const outputs = steps.flatMap((s) => s.outputs);
  const twice = outputs.find((o, i) => outputs.indexOf(o) !== i);
  if (twice !== undefined)
    throw new InputError(
      `${relative(dirname(twice), twice)} would be written twice (${twice}); give shots and fills names of their own, or "file" a {fill} or {as}.`,
    );
  return steps;
}
