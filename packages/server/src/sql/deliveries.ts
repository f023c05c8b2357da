const columns = `
  d.id, d.shot_id AS shotId, d.settings, d.revision, d.file_name AS fileName, d.bytes, d.sha256, d.created,
    j.id AS jobId, j.state, j.frames_done AS framesDone, j.frames_total AS framesTotal, j.message`;
export const insertDelivery = `INSERT INTO deliveries (shot_id, settings, revision, file_name) VALUES (?, ?, ?, ?)`;
/**
 * The same that was asked for so shortly before that a finger struck twice: it is to be made, or was made while this stroke
 * waited, the last two parameters being the s that it did.
 */
export const askedTwice = `
  SELECT d.id
  FROM deliveries d
  JOIN jobs j ON j.delivery_id = d.id
  WHERE d.shot_id = ? AND d.revision = ? AND d.settings = ? AND d.created > NOW(3) - INTERVAL 2 + ? SECOND
    AND (j.state IN ('waiting', 'running') OR (j.state = 'done' AND d.created > NOW(3) - INTERVAL ? SECOND))
  ORDER BY d.id DESC
  LIMIT 1`;
export const findDelivery = `SELECT ${columns} FROM deliveries d LEFT JOIN jobs j ON j.delivery_id = d.id WHERE d.id = ? AND d.binned IS NULL`;
export const listDeliveries = `
  SELECT ${columns}
  FROM deliveries d
  LEFT JOIN jobs j ON j.delivery_id = d.id
  WHERE d.shot_id = ? AND d.binned IS NULL
  ORDER BY d.id DESC`;
export const listOfProduction = `
  SELECT ${columns}, s.name AS shotName
  FROM deliveries d
  JOIN shots s ON s.id = d.shot_id
  LEFT JOIN jobs j ON j.delivery_id = d.id
  WHERE s.production_id = ? AND s.binned IS NULL AND d.binned IS NULL
  ORDER BY d.id DESC`;
export const deliveryDone = `UPDATE deliveries SET bytes = ?, sha256 = ? WHERE id = ?`;
/** Those that are done, and those that are or will be worked on. */
export const toBeKept = `
  SELECT d.id
  FROM deliveries d
  LEFT JOIN jobs j ON j.delivery_id = d.id
  WHERE d.sha256 IS NOT NULL OR d.binned IS NOT NULL OR j.state IN ('waiting', 'running', 'paused')`;
