/** Progress of a long command: a line a second on standard error, where it was asked for. */
const SECOND = 1000;

export class Progress {
  private done = 0;
  private spoken = 0;

  /** @param what is under way */
  constructor(
    private readonly what: string,
    private readonly total: number,
    private readonly isAsked: boolean,
  ) {}

  frame(frame: number): void {
    this.done++;
    if (!this.isAsked || Date.now() - this.spoken < SECOND) return;
    this.spoken = Date.now();
    process.stderr.write(`${this.what}: frame ${frame}, ${this.done} of ${this.total}\n`);
  }
}
