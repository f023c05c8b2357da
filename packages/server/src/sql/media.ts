export const insertMedia = `
  INSERT INTO media (hash, name, source, probe, notes, frame_count)
  VALUES (?, ?, ?, ?, ?, ?)
  ON DUPLICATE KEY UPDATE source = VALUES(source), binned = NULL`;
/** `name` is what it is called in the library, `fileName` what it came as. */
const columns = `
  hash, COALESCE(title, name) AS name, name AS fileName, tags, probe, notes, damaged, frame_count AS frameCount, state,
    problem`;
export const findMedia = `SELECT ${columns}, source FROM media WHERE hash = ?`;
/** What is nobody's plate comes first: that is what slots are filled with. */
export const listMedia = `
  SELECT ${columns}
  FROM media
  WHERE binned IS NULL
  ORDER BY EXISTS (SELECT 1 FROM shots WHERE shots.media_hash = media.hash), created DESC`;
export const mediaReady = `UPDATE media SET state = 'ready', problem = NULL, frame_count = ?, notes = ?, damaged = ? WHERE hash = ?`;
export const mediaFailed = `UPDATE media SET state = 'failed', problem = ? WHERE hash = ?`;
export const mediaWaiting = `UPDATE media SET state = 'waiting', problem = NULL WHERE hash = ?`;
/** An ingest may find fewer frames than the container promised; ranges must stay inside. */
export const clampRanges = `UPDATE shots SET range_to = LEAST(range_to, ?), range_from = LEAST(range_from, ?) WHERE media_hash = ?`;
export const takeOut = `UPDATE media SET binned = NULL WHERE hash = ?`;
export const renameMedia = `UPDATE media SET title = ? WHERE hash = ?`;
export const tagMedia = `UPDATE media SET tags = ? WHERE hash = ?`;
