/** Which files belong to a production: its plates, and what was brought in for it or is shown by its Screens. */
export const addToLibrary = `INSERT IGNORE INTO production_media (production_id, media_hash) VALUES (?, ?)`;
export const broughtIn = `SELECT media_hash AS hash, added FROM production_media WHERE production_id = ?`;
export const platesOf = `
  SELECT id, name, media_hash AS hash, created
  FROM shots
  WHERE production_id = ? AND binned IS NULL
  ORDER BY id`;
/** What its Screens show by now, in the slot and before it; what was in a slot before is not told. */
export const shownBy = `
  SELECT x.id AS screen, x.shot_id AS shot, s.name AS shotName, JSON_VALUE(x.recipe, '$.name') AS name,
    JSON_VALUE(x.recipe, '$.fill.media') AS fill, JSON_VALUE(x.recipe, '$.fill.made.foreground.media') AS foreground,
    JSON_EXTRACT(x.recipe, '$.fill.made.layers[*].media') AS layers
  FROM screens x
  JOIN shots s ON s.id = x.shot_id
  WHERE s.production_id = ? AND s.binned IS NULL
  ORDER BY x.id`;
