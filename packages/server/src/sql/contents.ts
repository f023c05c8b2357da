/** Made-up content, and which Screens show it. */
const columns = `c.id, c.production_id AS productionId, c.name, c.document, c.revision, c.changed`;
export const listContents = `
  SELECT ${columns}
  FROM contents c
  WHERE c.production_id = ?
  ORDER BY c.id`;
export const findContent = `
  SELECT ${columns}
  FROM contents c
  JOIN productions p ON p.id = c.production_id
  WHERE c.id = ? AND p.binned IS NULL`;
export const insertContent = `INSERT INTO contents (production_id, name, document) VALUES (?, ?, ?)`;
export const saveContent = `
  UPDATE contents
  SET name = ?, document = ?, revision = revision + 1
  WHERE id = ? AND revision = ?`;
export const deleteContent = `DELETE FROM contents WHERE id = ?`;
/** Screens of a production that show any content: which, and how it stood that they show. */
export const contentShownBy = `
  SELECT CAST(JSON_VALUE(x.recipe, '$.fill.content.id') AS UNSIGNED) AS content,
    CAST(JSON_VALUE(x.recipe, '$.fill.content.revision') AS UNSIGNED) AS revision,
    x.id AS screen, JSON_VALUE(x.recipe, '$.name') AS name, x.shot_id AS shot, s.name AS shotName
  FROM screens x
  JOIN shots s ON s.id = x.shot_id
  WHERE s.production_id = ? AND s.binned IS NULL AND JSON_VALUE(x.recipe, '$.fill.content.id') IS NOT NULL
  ORDER BY x.id`;
