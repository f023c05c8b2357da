/** A set-up step that cannot go on: one sentence for the person, with the mend. */
export class SetupError extends Error {}

export function say(text) {
  process.stdout.write(`${text}\n`);
}

/** Runs the work of a command; prints a SetupError as its sentence, anything else with where it came from. */
export async function main(work) {
  try {
    await work();
  } catch (e) {
    process.stderr.write(e instanceof SetupError ? `\n${e.message}\n` : `\nUnexpected: ${e?.stack ?? e}\n`);
    process.exit(1);
  }
}
