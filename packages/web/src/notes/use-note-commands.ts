import { provideCommand } from '../commands/use-commands';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';

/** Notes in the place of the bench, and a new one on the frame shown. */
export function useNoteCommands(): void {
  const review = useReview();
  const shot = useShot();
  provideCommand('notes', () => (review.isOpen = !review.isOpen));
  provideCommand(
    'new-note',
    () => {
      review.isOpen = true;
      review.begin();
    },
    () => shot.shot !== null,
  );
}
