/** Commands of the shot page itself: its picture, its time, what is shown. */
import type { Ref } from 'vue';
import type { Stage } from '../stages';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Compare, Look, Repairs } from '../stores/view';
import { useView } from '../stores/view';
import { useOutlineKeys } from '../edits/use-outline-keys';
import { provideCommand } from './use-commands';

const COMPARES: readonly Compare[] = ['now', 'likeness', 'halves', 'difference', 'blink'];
const LOOKS: readonly Look[] = ['card', 'flat', 'slit', 'curves', 'room'];
const REPAIRS: readonly Repairs[] = ['all', 'but-last', 'none'];
const following = <T>(list: readonly T[], now: T): T => list[(list.indexOf(now) + 1) % list.length]!;

function provideTime(): void {
  const playhead = usePlayhead();
  const store = useShot();
  const range = async (from: number, to: number): Promise<void> => {
    await store
      .setRange(from, to)
      .then(() => ([playhead.from, playhead.to] = [from, to]))
      .catch(() => {});
  };
  provideCommand('play', () => playhead.toggle());
  provideCommand('first-frame', () => playhead.step(-playhead.count));
  provideCommand('last-frame', () => playhead.step(playhead.count));
  provideCommand('play-round', () => (playhead.loop = !playhead.loop));
  provideCommand('begin-range', () => range(playhead.frame, Math.max(playhead.frame, playhead.to)));
  provideCommand('end-range', () => range(Math.min(playhead.from, playhead.frame), playhead.frame));
}

function provideZoom(): void {
  const view = useView();
  const store = useShot();
  const zoomTo = (z: number): void => {
    const s = store.shot!.probe;
    if (view.zoom === 0) view.centre = [s.width / 2, s.height / 2];
    view.zoom = z / window.devicePixelRatio;
  };
  const isThere = (): boolean => store.shot !== null;
  provideCommand('zoom-fit', () => (view.zoom = 0));
  provideCommand('zoom-100', () => zoomTo(1), isThere);
  provideCommand('zoom-400', () => zoomTo(4), isThere);
}

function provideOutlines(): void {
  const outline = useOutlineKeys();
  provideCommand('next-point', () => outline.step(1), outline.isChosen);
  provideCommand('point-before', () => outline.step(-1), outline.isChosen);
  provideCommand('bend-point', () => outline.bend(), outline.isChosen);
}

function provideLooks(stage: Ref<Stage>): void {
  const view = useView();
  provideCommand('show-cells', () => (view.cells = !view.cells));
  provideCommand('compare', () => (view.compare = following(COMPARES, view.compare)));
  provideCommand(
    'prove-look',
    () => (view.look = following(LOOKS, view.look)),
    () => stage.value === 'prove',
  );
  provideCommand('repairs', () => (view.repairs = following(REPAIRS, view.repairs)));
  provideCommand('lanes', () => (view.lanes = !view.lanes));
  provideCommand('wipe', () => (view.wipe = view.wipe === null ? 0.5 : null));
  provideCommand('corner-board', () => {
    if (stage.value === 'pin' || stage.value === 'prove') view.boardLarge = !view.boardLarge;
    else if (view.boardLarge) view.boardLarge = view.boardCalled = false;
    else if (view.boardCalled) view.boardLarge = true;
    else view.boardCalled = true;
  });
  provideCommand('ruling', () => (view.ruling = !view.ruling));
  provideCommand('plate-alone', () => (view.plateOnly = !view.plateOnly));
  provideCommand('alone', () => (view.alone = !view.alone));
  provideCommand('help', () => (view.helpOpen = true));
}

/** Offers them while the page is there. */
export function usePageCommands(stage: Ref<Stage>): void {
  const view = useView();
  const store = useShot();
  const playhead = usePlayhead();
  provideTime();
  provideZoom();
  provideOutlines();
  provideLooks(stage);
  provideCommand(
    'whole-pin',
    () => ([view.armed, view.whole] = [null, !view.whole]),
    () => store.chosen !== null,
  );
  provideCommand('new-screen', () => (view.tool = { kind: 'drop-corners' }));
  provideCommand(
    'draw-patch',
    () => (view.tool = { kind: 'draw-patch', patch: 'follow' }),
    () => store.chosen !== null && playhead.frame === store.chosen?.recipe.referenceFrame && stage.value === 'follow',
  );
  provideCommand(
    'undo',
    () => store.undo(),
    () => store.undoStack.length > 0,
  );
  provideCommand(
    'redo',
    () => store.redo(),
    () => store.redoStack.length > 0,
  );
}
