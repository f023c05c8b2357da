/** A question before something that cannot be taken back, in a dialog of the page; the button says what will happen. */
import { useModal } from 'bootstrap-vue-next';

export interface Question {
  readonly title: string;
  /** what else happens, in a sentence */
  readonly body: string;
  /** on the button that does it */
  readonly go: string;
}

/** @returns asks, and tells whether it is to be done; closed in any other way, it is not */
export function useQuestion(): (question: Question) => Promise<boolean> {
  const { create } = useModal();
  return async ({ title, body, go }) => {
    const { ok } = await create({
      title,
      body,
      okTitle: go,
      okVariant: 'primary',
      cancelTitle: 'Keep it',
      cancelVariant: 'outline-secondary',
      // It has the keys at once.
      noAnimation: true,
    }).show();
    return ok === true;
  };
}
