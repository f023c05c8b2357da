/** Ctrl-C is a wish, not an end: jobs look at `requested` between frames, write what they have and leave with 130. */
export const interruption = { requested: false };

process.on('SIGINT', () => {
  if (interruption.requested) process.exit(130);
  interruption.requested = true;
});
