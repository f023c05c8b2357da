/** Whoever adds a Screen to a shot waits for the others: its depth is one more than theirs. */
export const lockShot = `SELECT id FROM shots WHERE id = ? FOR UPDATE`;
export const insertScreen = `
  INSERT INTO screens (shot_id, recipe, depth) SELECT ?, ?, COALESCE(MAX(depth), 0) + 1
  FROM screens
  WHERE shot_id = ?`;
export const insertRevision = `INSERT INTO screen_revisions (screen_id, revision, recipe, step) VALUES (?, ?, ?, ?)`;
export const listRevisions = `SELECT revision, step, saved FROM screen_revisions WHERE screen_id = ? ORDER BY revision DESC LIMIT 200`;
export const findRevision = `SELECT revision, step, saved, recipe FROM screen_revisions WHERE screen_id = ? AND revision = ?`;
export const findScreen = `SELECT id, shot_id AS shotId, recipe, revision FROM screens WHERE id = ?`;
export const listScreens = `SELECT id, shot_id AS shotId, recipe, revision FROM screens WHERE shot_id = ? ORDER BY depth, id`;
export const listScreensOfProduction = `
  SELECT x.id, x.shot_id AS shotId, x.recipe, x.revision
  FROM screens x
  JOIN shots s ON s.id = x.shot_id
  WHERE s.production_id = ? AND s.binned IS NULL`;
export const saveScreen = `UPDATE screens SET recipe = ?, revision = revision + 1 WHERE id = ? AND revision = ?`;
export const setDepth = `UPDATE screens SET depth = ? WHERE id = ? AND shot_id = ?`;
export const deleteScreen = `DELETE FROM screens WHERE id = ?`;
