/**
 * Answers that take reckoning over a whole track, in a thread of their own with their own way to the database: the server's
 * own thread only passes the bytes on.
 */
import { refusalOf } from './api-error';
import { readConfig } from './config';
import { Database } from './database';
import { giveWay } from './give-way';
import type { Answer, Reading } from './readers';
import { writeCameraLens } from '@yarlop/pipeline/camera-lens';
import { readProof, readVerdicts } from './use-cases/proof';
import { readImport } from './use-cases/read-import';
import { readTrack } from './use-cases/solve';
import { shotOfTemplate, templateMedia } from './use-cases/read-template';
import { takeTable } from './use-cases/take-table';

giveWay();
const c = { db: new Database(readConfig(process.env).database) };

async function answerTo(r: Reading): Promise<unknown> {
  switch (r.what) {
    case 'track':
      return readTrack(c, r.screen, r.mediaHash);
    case 'proof':
      return readTrack(c, r.screen, r.mediaHash).then((track) => readProof(c, r.screen, track));
    case 'verdicts':
      return readVerdicts(c, r.shot, r.screens);
    case 'import':
      return readImport(r.body, r.plate, r.frameCount);
    case 'template':
      return templateMedia(r.path);
    case 'template-shot':
      return shotOfTemplate(c, r.productionId, r.path);
    case 'lens':
      return writeCameraLens(r.order);
    case 'table':
      return takeTable(c, r.name, new TextDecoder().decode(r.body));
  }
}

/** Errors lose their kind on the way between threads, so that it is told beside them. */
export default async function read(r: Reading): Promise<Answer> {
  try {
    return { json: new TextEncoder().encode(JSON.stringify((await answerTo(r)) ?? null)) };
  } catch (e) {
    const known = refusalOf(e);
    if (known) {
      const { status, code, message, details } = known;
      return { refused: { status, code, message, details } };
    }
    const { message, code } = e as NodeJS.ErrnoException;
    return { failed: message, code: code ?? null };
  }
}
