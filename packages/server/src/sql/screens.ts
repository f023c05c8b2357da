export const insertScreen = `INSERT INTO screens (shot_id, recipe) VALUES (?, ?)`;
export const insertRevision = `INSERT INTO screen_revisions (screen_id, revision, recipe) VALUES (?, ?, ?)`;
export const findScreen = `SELECT id, shot_id AS shotId, recipe, revision FROM screens WHERE id = ?`;
export const listScreens = `SELECT id, shot_id AS shotId, recipe, revision FROM screens WHERE shot_id = ? ORDER BY id`;
export const saveScreen = `UPDATE screens SET recipe = ?, revision = revision + 1 WHERE id = ? AND revision = ?`;
export const deleteScreen = `DELETE FROM screens WHERE id = ?`;
