/**
 * Threads that give way to others where the cores are all at work. Linux keeps the niceness of a thread apart from that of
 * its process; the threads and tools that it starts have it as well. Source: setpriority(2), "C library/kernel differences".
 */
import { setPriority } from 'node:os';
import { workerData } from 'piscina';

/**
 * Niceness, 0 to 19, of threads that a person waits for: the server's own, which answers everybody, goes first. Little,
 * since a browser on the same machine gives way to nobody. By trial.
 */
export const FOR_A_PERSON = 1;
/** The same of jobs; at 10 a delivery beside other programs took four times as long. By trial. */
export const FOR_A_JOB = 2;

/** To be called by a thread of a pool, as its first work; the pool says by how much. */
export function giveWay(): void {
  setPriority(0, workerData as number);
}
