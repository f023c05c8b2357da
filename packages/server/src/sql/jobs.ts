const columns = `
  id, kind, media_hash AS mediaHash, shot_id AS shotId, screen_id AS screenId, solve_id AS solveId,
    delivery_id AS deliveryId, input, state, frames_done AS framesDone, frames_total AS framesTotal, message,
    attempt, token, created`;
export const insertJob = `
  INSERT INTO jobs (kind, media_hash, shot_id, screen_id, solve_id, delivery_id, input, frames_total, visitor)
  VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`;
export const findJob = `SELECT ${columns} FROM jobs WHERE id = ?`;
export const listJobs = `
  SELECT ${columns}
  FROM jobs
  WHERE state IN ('waiting', 'running', 'paused') OR id > (SELECT COALESCE(MAX(id), 0) FROM jobs) - 30
  ORDER BY id`;
/**
 * A running job whose lease ran out belongs to a server that died. The first parameter leaves out kinds, as a list with commas. Kinds
 * whose turn it was, as a list with commas, come after all others: a row of long runs never keeps the rest waiting,
 * whatever came first. So do visitors whose turn it was, but for deliveries: those stand in an order that people see and
 * change. A run waits for earlier ones of what its Screen ignores: it is to know where that passes.
 */
export const claimable = `
  SELECT id, visitor
  FROM jobs
  WHERE (state = 'waiting' OR (state = 'running' AND heartbeat < NOW(3) - INTERVAL 4 SECOND))
    AND FIND_IN_SET(kind, ?) = 0
    AND (kind = 'ingest' OR media_hash IN (SELECT hash FROM media WHERE state = 'ready'))
    AND NOT EXISTS (
      SELECT 1
      FROM jobs passing
      JOIN screens ON screens.id = passing.screen_id
      WHERE jobs.kind = 'follow' AND passing.kind = 'follow' AND passing.shot_id = jobs.shot_id AND passing.id < jobs.id
        AND passing.state IN ('waiting', 'running')
        AND JSON_CONTAINS(jobs.input, JSON_EXTRACT(screens.recipe, '$.name'), '$.recipe.ignores')
    )
  ORDER BY FIND_IN_SET(kind, ?) > 0, (kind <> 'deliver' AND FIND_IN_SET(visitor, ?) > 0), (kind IN ('follow', 'prove', 'camera')) DESC, COALESCE(place, id), id
  LIMIT 1 FOR UPDATE SKIP LOCKED`;
export const claim = `
  UPDATE jobs
  SET state = 'running', token = token + 1, attempt = attempt + 1, heartbeat = NOW(3), message = NULL
  WHERE id = ?`;
/**
 * Stands before every write of a run, in its transaction: the row stays locked until that is committed. By the primary key
 * alone, as the writes after it: a plan over the index of states would take its locks the other way round.
 */
export const holdLease = `SELECT token, state FROM jobs WHERE id = ? FOR UPDATE`;
/** Under the lease. */
export const beat = `UPDATE jobs SET heartbeat = NOW(3), frames_done = ? WHERE id = ?`;
/** Under the lease: what was stored is not done again, so attempts count from here. */
export const progressed = `UPDATE jobs SET attempt = 1 WHERE id = ?`;
/** Under the lease: the server ends in order, which is no failed attempt. */
export const handBack = `UPDATE jobs SET state = 'waiting', attempt = GREATEST(1, attempt) - 1 WHERE id = ?`;
/** Under the lease. */
export const finish = `UPDATE jobs SET state = ?, message = ?, frames_done = ? WHERE id = ?`;
export const wantCancel = `UPDATE jobs SET cancel_wanted = 1 WHERE id = ? AND state IN ('waiting', 'running')`;
/** Deliveries that wait, in the order in which they will be rendered. */
export const listQueue = `
  SELECT j.id, j.delivery_id AS deliveryId, j.shot_id AS shotId, s.name AS shotName, d.file_name AS fileName,
    JSON_VALUE(d.settings, '$.as') AS format, COALESCE(j.place, j.id) AS place
  FROM jobs j
  JOIN deliveries d ON d.id = j.delivery_id
  JOIN shots s ON s.id = j.shot_id
  WHERE j.kind = 'deliver' AND j.state = 'waiting'
  ORDER BY COALESCE(j.place, j.id), j.id`;
export const setPlace = `UPDATE jobs SET place = ? WHERE id = ? AND state = 'waiting'`;
/** 1 to stop for good, 2 to pause. */
export const wantPause = `UPDATE jobs SET cancel_wanted = 2 WHERE id = ? AND kind = 'deliver' AND state = 'running'`;
export const pauseWaiting = `UPDATE jobs SET state = 'paused' WHERE id = ? AND kind = 'deliver' AND state = 'waiting'`;
export const resume = `UPDATE jobs SET state = 'waiting', cancel_wanted = 0, attempt = 0 WHERE id = ? AND state = 'paused'`;
export const cancelWaiting = `UPDATE jobs SET state = 'cancelled' WHERE id = ? AND state IN ('waiting', 'paused')`;
export const cancelWanted = `SELECT cancel_wanted AS wanted FROM jobs WHERE id = ? AND token = ? AND state = 'running'`;
export const activeFollow = `SELECT id FROM jobs WHERE screen_id = ? AND kind = 'follow' AND state IN ('waiting', 'running') LIMIT 1`;
export const activeProof = `SELECT id FROM jobs WHERE screen_id = ? AND kind = 'prove' AND state IN ('waiting', 'running') LIMIT 1`;
export const activeCamera = `SELECT id FROM jobs WHERE shot_id = ? AND kind = 'camera' AND state IN ('waiting', 'running') LIMIT 1`;
export const activeIngest = `SELECT id FROM jobs WHERE media_hash = ? AND kind = 'ingest' AND state IN ('waiting', 'running') LIMIT 1`;
export const countJobs = `SELECT kind, state, COUNT(*) AS jobs FROM jobs GROUP BY kind, state`;
export const queueState = `
  SELECT COALESCE(SUM(state = 'waiting'), 0) AS waiting, COALESCE(SUM(state = 'running'), 0) AS running,
    COALESCE(MAX(IF(state = 'waiting', TIMESTAMPDIFF(SECOND, created, NOW(3)), 0)), 0) AS oldestSeconds
  FROM jobs
  WHERE state IN ('waiting', 'running')`;
