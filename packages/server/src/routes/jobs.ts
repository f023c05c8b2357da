import { rm } from 'node:fs/promises';
import { Router } from 'express';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { JobRow, QueueRow } from '../rows';
import { withoutInput } from '../rows';
import type { Runner } from '../runner';
import * as jobs from '../sql/jobs';
import { orderQueue } from '../use-cases/order-queue';
import { body, handler, id } from './handler';

export function jobRoutes(c: Context, runner: Runner): Router {
  const told = async (job: number): Promise<object> => withoutInput((await c.db.one<JobRow>(jobs.findJob, [job]))!);
  return Router()
    .get(
      '/',
      handler(async () => (await c.db.all<JobRow>(jobs.listJobs)).map(withoutInput)),
    )
    .get(
      '/queue',
      handler(async () => c.db.all<QueueRow>(jobs.listQueue)),
    )
    .put(
      '/queue',
      handler(async (req) => orderQueue(c, body(req, 'queue').jobs)),
    )
    .post(
      '/:id/pause',
      handler(async (req) => {
        const job = await c.db.one<JobRow>(jobs.findJob, [id(req)]);
        if (!job) throw notFound('The job');
        if (job.kind !== 'deliver')
          throw new ApiError(
            422,
            'invalid',
            'Only a delivery can be paused; cancel other jobs, which go on from what they have when they are started again.',
          );
        await c.db.run(jobs.wantPause, [job.id]);
        await c.db.run(jobs.pauseWaiting, [job.id]);
        runner.cancelNow(job.id);
        await runner.tell(job.id);
        return told(job.id);
      }),
    )
    .post(
      '/:id/resume',
      handler(async (req) => {
        const { affectedRows } = await c.db.run(jobs.resume, [id(req)]);
        if (affectedRows === 0) throw new ApiError(409, 'invalid', 'This job is not paused.');
        await runner.tell(id(req));
        c.wake();
        return told(id(req));
      }),
    )
    .post(
      '/:id/cancel',
      handler(async (req) => {
        const job = await c.db.one<JobRow>(jobs.findJob, [id(req)]);
        if (!job) throw notFound('The job');
        await c.db.run(jobs.wantCancel, [job.id]);
        const { affectedRows } = await c.db.run(jobs.cancelWaiting, [job.id]);
        // What a paused delivery had rendered goes with it.
        if (affectedRows === 1 && job.deliveryId)
          await rm(c.storage.delivery(job.deliveryId), { recursive: true, force: true });
        runner.cancelNow(job.id);
        return told(job.id);
      }),
    );
}
