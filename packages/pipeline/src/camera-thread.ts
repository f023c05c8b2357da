/** A thread that solves a camera from points that were followed: seconds in which the command line must still listen. */
import { parentPort, workerData } from 'node:worker_threads';
import type { CameraOrder } from './solve-camera';
import { solvedOf } from './solve-camera';

parentPort!.postMessage(solvedOf(workerData as CameraOrder));
