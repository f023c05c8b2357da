/** The keys of the page of made-up content: playing, stepping, nudging, taking back. */
import { tinykeys } from 'tinykeys';
import { onMounted, onUnmounted } from 'vue';

export interface ContentActs {
  readonly play: () => void;
  readonly step: (by: number) => void;
  readonly go: (to: 'first' | 'last') => void;
  /** thousandths of the content's height; false where no layer is chosen */
  readonly nudge: (dx: number, dy: number) => boolean;
  readonly remove: () => void;
  readonly leave: () => void;
  readonly undo: () => void;
  readonly redo: () => void;
}

function isInField(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement;
  return t.closest('input:not([type=range]):not([type=checkbox]), textarea, select, .dropdown-menu') !== null;
}

/** How far one arrow goes, held by Shift or Ctrl. */
function farOf(e: KeyboardEvent): number {
  if (e.ctrlKey) return 10;
  return e.shiftKey ? 0.1 : 1;
}

export function useContentKeys(acts: ContentActs): void {
  const free =
    (work: (e: KeyboardEvent) => void) =>
    (e: KeyboardEvent): void => {
      if (isInField(e)) return;
      e.preventDefault();
      work(e);
    };
  const arrow = (dx: number, dy: number): ((e: KeyboardEvent) => void) =>
    free((e) => {
      const far = farOf(e);
      if (!acts.nudge(dx * far, dy * far) && dx !== 0) acts.step(dx * (e.shiftKey ? 10 : 1));
    });
  const onSpace = (e: KeyboardEvent): void => {
    // A button that has the focus is pressed by it.
    if (!(e.target as HTMLElement).closest('button, a')) free(acts.play)(e);
  };
  let stop = (): void => {};
  onMounted(() => {
    const arrows = { ArrowLeft: arrow(-1, 0), ArrowRight: arrow(1, 0), ArrowUp: arrow(0, -1), ArrowDown: arrow(0, 1) };
    const held = Object.entries(arrows).flatMap(([k, f]) => [
      [k, f],
      [`Shift+${k}`, f],
      [`Control+${k}`, f],
    ]);
    stop = tinykeys(window, {
      ...(Object.fromEntries(held) as typeof arrows),
      Space: onSpace,
      Home: free(() => acts.go('first')),
      End: free(() => acts.go('last')),
      Delete: free(acts.remove),
      Escape: free(acts.leave),
      '$mod+z': free(acts.undo),
      '$mod+Shift+z': free(acts.redo),
    });
  });
  onUnmounted(() => stop());
}
