/** A call or an input file that is wrong: nothing was done. `message` names what, where and the mend. */
export class InputError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'InputError';
  }
}
