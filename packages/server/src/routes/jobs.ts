import { Router } from 'express';
import { notFound } from '../api-error';
import type { Context } from '../context';
import type { JobRow } from '../rows';
import type { Runner } from '../runner';
import * as jobs from '../sql/jobs';
import { handler, id } from './handler';

export function jobRoutes(c: Context, runner: Runner): Router {
  return Router()
    .get('/', handler(async () => (await c.db.all<JobRow>(jobs.listJobs)).map(({ input, ...job }) => (void input, job))))
    .post('/:id/cancel', handler(async (req) => {
      const job = await c.db.one<JobRow>(jobs.findJob, [id(req)]);
      if (!job) throw notFound('The job');
      await c.db.run(jobs.wantCancel, [job.id]);
      await c.db.run(jobs.cancelWaiting, [job.id]);
      runner.cancelNow(job.id);
      return c.db.one(jobs.findJob, [job.id]);
    }));
}
