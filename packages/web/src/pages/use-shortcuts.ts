/** Every key of the shot page in one table: the help panel is made from it. */
import { tinykeys } from 'tinykeys';
import { onMounted, onUnmounted } from 'vue';
import type { Ref } from 'vue';
import { useRouter } from 'vue-router';
import type { Stage } from '../stages';
import { STAGES } from '../stages';
import { usePinEdit } from '../edits/use-pin-edit';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Compare, Look, Repairs } from '../stores/view';
import { useView } from '../stores/view';

export const KEYS: readonly (readonly [keys: string, what: string])[] = [
  ['Space', 'play or pause; hold it and drag to move the picture'],
  ['Left, Right', 'one frame back or on; with a corner taken: nudge by 1 px'],
  ['Shift with arrows', 'ten frames; with a corner taken: nudge by 0.1 px'],
  ['Ctrl with arrows', 'with a corner taken: nudge by 10 px'],
  ['Home, End', 'first and last frame'],
  ['L', 'play round and round'],
  ['I, O', 'begin and end the working range here'],
  ['Z, X, C', 'zoom to fit, 100 %, 400 %'],
  ['1 to 4', 'take corner TL, TR, BR, BL'],
  ['Escape', 'let go of a corner, leave a tool, stop following'],
  ['N', 'drop four corners for a new Screen'],
  ['P', 'draw a follow patch'],
  ['F', 'follow both ways'],
  ['K', 'place the pin by hand on this frame'],
  ['T', 'what the frame was followed by'],
  ['G', 'lay the pin onto the glass (in Pin)'],
  ['R', 'perspective ruling'],
  ['B', 'corner board and picture change places; called up where the bench has none'],
  ['Q', 'what the close-ups show: this frame, its likeness, half and half, what differs, blink'],
  ['J', 'this frame is right: remember the likeness'],
  ['M', 'measure slip (in Prove)'],
  ['S', 'snap to the likeness (in Prove)'],
  ['Y', 'in place, laid flat, slit, curves (in Prove)'],
  ['E', 'before and after: as repaired, before the last repair, as followed'],
  ['W', 'divider between plate and dressed picture'],
  ['U', 'open the lanes of the strip'],
  ['V', 'plate alone'],
  ['Tab, Enter', 'reach and press every control'],
  ['Alt+1 to Alt+6', 'the six stages'],
  ['Ctrl+Z, Ctrl+Shift+Z', 'undo and redo'],
  ['H', 'hide everything but the picture'],
  ['?', 'this help'],
];

const COMPARES: readonly Compare[] = ['now', 'likeness', 'halves', 'difference', 'blink'];
const LOOKS: readonly Look[] = ['card', 'flat', 'slit', 'curves'];
const REPAIRS: readonly Repairs[] = ['all', 'but-last', 'none'];
const following = <T>(list: readonly T[], now: T): T => list[(list.indexOf(now) + 1) % list.length]!;

export function useShortcuts(stage: Ref<Stage>): void {
  const playhead = usePlayhead();
  const view = useView();
  const store = useShot();
  const edit = usePinEdit();
  const live = useLive();
  const router = useRouter();
  const inField = (e: KeyboardEvent): boolean => {
    const t = e.target as HTMLElement;
    const isField = t.closest('input:not([type=range]):not([type=checkbox]), textarea, select') !== null;
    // A question has the keys to itself.
    return isField || document.querySelector('.modal.show') !== null;
  };
  const arrow =
    (dx: number, dy: number) =>
    (e: KeyboardEvent): void => {
      if (inField(e) || (e.target as HTMLElement).matches?.('input[type=range]')) return;
      e.preventDefault();
      let far: 1 | 10 | 0.1;
      if (e.ctrlKey) far = 10;
      else if (e.shiftKey) far = 0.1;
      else far = 1;
      if (view.armed !== null) edit.nudge(view.armed, dx * far, dy * far, playhead.frame);
      else if (dx !== 0) playhead.step(dx * (e.shiftKey ? 10 : 1));
    };
  const key =
    (work: () => void) =>
    (e: KeyboardEvent): void => {
      if (inField(e) || e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      work();
    };
  const press = (test: string) =>
    key(() => document.querySelector<HTMLButtonElement>(`[data-test="${test}"]`)?.click());
  const range = async (from: number, to: number): Promise<void> => {
    await store
      .setRange(from, to)
      .then(() => ([playhead.from, playhead.to] = [from, to]))
      .catch(() => {});
  };
  const zoomTo = (z: number): void => {
    const s = store.shot!.probe;
    if (view.zoom === 0) view.centre = [s.width / 2, s.height / 2];
    view.zoom = z / window.devicePixelRatio;
  };
  let off = (): void => {};
  onMounted(() => {
    off = tinykeys(window, {
      ArrowLeft: arrow(-1, 0),
      ArrowRight: arrow(1, 0),
      ArrowUp: arrow(0, -1),
      ArrowDown: arrow(0, 1),
      'Shift+ArrowLeft': arrow(-1, 0),
      'Shift+ArrowRight': arrow(1, 0),
      'Shift+ArrowUp': arrow(0, -1),
      'Shift+ArrowDown': arrow(0, 1),
      'Control+ArrowLeft': arrow(-1, 0),
      'Control+ArrowRight': arrow(1, 0),
      'Control+ArrowUp': arrow(0, -1),
      'Control+ArrowDown': arrow(0, 1),
      Home: key(() => playhead.step(-playhead.count)),
      End: key(() => playhead.step(playhead.count)),
      l: key(() => (playhead.loop = !playhead.loop)),
      i: key(() => void range(playhead.frame, Math.max(playhead.frame, playhead.to))),
      o: key(() => void range(Math.min(playhead.from, playhead.frame), playhead.frame)),
      z: key(() => (view.zoom = 0)),
      x: key(() => zoomTo(1)),
      c: key(() => zoomTo(4)),
      ...Object.fromEntries(
        [0, 1, 2, 3].map((i) => [String(i + 1), key(() => store.chosen && (view.armed = view.armed === i ? null : i))]),
      ),
      ...Object.fromEntries(
        STAGES.map((s, i) => [
          `Alt+${i + 1}`,
          (e: KeyboardEvent) => {
            e.preventDefault();
            void router.push(`/shots/${store.shot!.id}/${s}`);
          },
        ]),
      ),
      Escape: () => {
        if (view.tool.kind === 'select' && view.armed === null)
          for (const j of live.running)
            if (j.kind === 'follow' && j.screenId === store.chosenId) void live.cancel(j.id);
        view.armed = null;
        if (view.tool.kind === 'sample') view.plateOnly = false;
        if (view.tool.kind === 'add-spot' || view.tool.kind === 'sample') view.tool = { kind: 'select' };
      },
      n: key(() => (view.tool = { kind: 'drop-corners' })),
      p: key(
        () =>
          store.chosen &&
          playhead.frame === store.chosen.recipe.referenceFrame &&
          stage.value === 'follow' &&
          (view.tool = { kind: 'draw-patch', patch: 'follow' }),
      ),
      f: press('follow-both'),
      k: press('hand-here'),
      m: press('measure-slip'),
      s: press('snap-likeness'),
      j: press('remember-likeness'),
      t: key(() => (view.cells = !view.cells)),
      g: press('snap-glass'),
      q: key(() => (view.compare = following(COMPARES, view.compare))),
      y: key(() => stage.value === 'prove' && (view.look = following(LOOKS, view.look))),
      e: key(() => (view.repairs = following(REPAIRS, view.repairs))),
      u: key(() => (view.lanes = !view.lanes)),
      w: key(() => (view.wipe = view.wipe === null ? 0.5 : null)),
      b: key(() => {
        if (stage.value === 'pin' || stage.value === 'prove') view.boardLarge = !view.boardLarge;
        else if (view.boardLarge) view.boardLarge = view.boardCalled = false;
        else if (view.boardCalled) view.boardLarge = true;
        else view.boardCalled = true;
      }),
      r: key(() => (view.ruling = !view.ruling)),
      v: key(() => (view.plateOnly = !view.plateOnly)),
      h: key(() => (view.alone = !view.alone)),
      'Shift+?': key(() => (view.helpOpen = true)),
      '$mod+z': (e) => {
        if (inField(e)) return;
        e.preventDefault();
        store.undo();
      },
      '$mod+Shift+z': (e) => {
        if (inField(e)) return;
        e.preventDefault();
        store.redo();
      },
    });
  });
  onUnmounted(() => off());
}
