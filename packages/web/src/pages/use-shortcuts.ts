/** The keys of the shot page: those of the commands' table, and those that move and point. */
import { tinykeys } from 'tinykeys';
import { onMounted, onUnmounted } from 'vue';
import type { Ref } from 'vue';
import { useRouter } from 'vue-router';
import type { Command } from '../commands/catalogue';
import { COMMANDS } from '../commands/catalogue';
import { perform } from '../commands/use-commands';
import { usePageCommands } from '../commands/use-page-commands';
import type { Stage } from '../stages';
import { STAGES } from '../stages';
import { shiftedPin, spreadPin } from '@yarlop/core/pin/whole-pin';
import { useFillPlace } from '../edits/use-fill-place';
import { useOutlineKeys } from '../edits/use-outline-keys';
import { usePinEdit } from '../edits/use-pin-edit';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Tool } from '../stores/view';
import { useView } from '../stores/view';

/** Tools that hear nothing of the keyboard themselves. */
const LEFT_BY_ESCAPE: readonly Tool['kind'][] = ['add-spot', 'sample', 'box-points', 'place-surface', 'draw-note'];

export function useShortcuts(stage: Ref<Stage>): void {
  const playhead = usePlayhead();
  const view = useView();
  const store = useShot();
  const edit = usePinEdit();
  const fill = useFillPlace();
  const outline = useOutlineKeys();
  const isPlacing = (): boolean => view.placing && stage.value === 'dress' && fill.here.value !== null;
  const live = useLive();
  const router = useRouter();
  const inField = (e: KeyboardEvent): boolean => {
    const t = e.target as HTMLElement;
    const isField = t.closest('input:not([type=range]):not([type=checkbox]), textarea, select') !== null;
    // A question and the help have the keys to themselves.
    return isField || document.querySelector('.modal.show, .offcanvas.show') !== null;
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
      else if (view.whole) edit.nudgeWhole('move the pin', (q) => shiftedPin(q, [dx * far, dy * far]), playhead.frame);
      else if (isPlacing()) fill.nudge([dx * far, dy * far]);
      else if (outline.isTaken()) outline.nudge([dx * far, dy * far]);
      else if (dx !== 0) playhead.step(dx * (e.shiftKey ? 10 : 1));
    };
  /** Turns (around) or scales (along) the pin or the fill, whichever is taken as a whole. */
  const spread =
    (along: number, around: number) =>
    (e: KeyboardEvent): void => {
      if (inField(e) || !(view.whole || isPlacing() || outline.isTaken())) return;
      e.preventDefault();
      const far = e.shiftKey ? 0.1 : 1;
      if (!view.whole) return (isPlacing() ? fill : outline).spread(along * far, around * far);
      const name = along === 0 ? 'turn the pin' : 'scale the pin';
      edit.nudgeWhole(name, (q) => spreadPin(q, along * far, around * far), playhead.frame);
    };
  const key =
    (work: () => void) =>
    (e: KeyboardEvent): void => {
      if (inField(e) || e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      work();
    };
  const bound = ({ id, binding }: Command): [string, (e: KeyboardEvent) => void][] => {
    if (binding === null) return [];
    if (!binding.startsWith('$mod')) return [[binding, key(() => perform(id))]];
    const held = (e: KeyboardEvent): void => {
      if (inField(e)) return;
      e.preventDefault();
      perform(id);
    };
    return [[binding, held]];
  };
  usePageCommands(stage);
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
      PageUp: spread(1, 0),
      PageDown: spread(-1, 0),
      'Shift+PageUp': spread(1, 0),
      'Shift+PageDown': spread(-1, 0),
      'Alt+PageUp': spread(0, 1),
      'Alt+PageDown': spread(0, -1),
      'Alt+Shift+PageUp': spread(0, 1),
      'Alt+Shift+PageDown': spread(0, -1),
      Delete: key(() => outline.remove()),
      ...Object.fromEntries(COMMANDS.flatMap(bound)),
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
        const isFree = view.armed === null && !view.whole && !view.placing && !outline.isChosen();
        if (view.tool.kind === 'select' && isFree)
          for (const j of live.running)
            if (j.kind === 'follow' && j.screenId === store.chosenId) void live.cancel(j.id);
        [view.armed, view.whole, view.placing] = [null, false, false];
        outline.letGo();
        if (view.tool.kind === 'sample') view.plateOnly = false;
        if (LEFT_BY_ESCAPE.includes(view.tool.kind)) view.tool = { kind: 'select' };
      },
    });
  });
  onUnmounted(() => off());
}
