/** What is said of shots by those who look at them. */
const columns = `
  n.id, n.shot_id AS shotId, n.screen_id AS screenId, n.corner, n.from_frame AS \`from\`, n.to_frame AS \`to\`, n.words,
    n.strokes, n.state, n.author, n.created, n.changed`;
export const listNotes = `
  SELECT ${columns}
  FROM review_notes n
  WHERE n.shot_id = ?
  ORDER BY n.from_frame, n.id`;
/** Of a production, the latest first. */
export const notesOfProduction = `
  SELECT ${columns}, s.name AS shotName, s.media_hash AS mediaHash
  FROM review_notes n
  JOIN shots s ON s.id = n.shot_id
  WHERE s.production_id = ? AND s.binned IS NULL
  ORDER BY n.created DESC, n.id DESC`;
export const findNote = `SELECT ${columns} FROM review_notes n WHERE n.id = ?`;
export const insertNote = `
  INSERT INTO review_notes (shot_id, screen_id, corner, from_frame, to_frame, words, strokes, state, author)
  VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`;
export const saveNote = `
  UPDATE review_notes
  SET screen_id = ?, corner = ?, from_frame = ?, to_frame = ?, words = ?, strokes = ?, state = ?
  WHERE id = ?`;
export const deleteNote = `DELETE FROM review_notes WHERE id = ?`;
export const setStanding = `UPDATE shots SET standing = ? WHERE id = ?`;
