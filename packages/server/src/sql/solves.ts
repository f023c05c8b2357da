const columns = `id, screen_id AS screenId, identity, pin, reference_frame AS referenceFrame, forwards, backwards`;
export const insertSolve = `INSERT INTO solves (screen_id, identity, pin, reference_frame) VALUES (?, ?, ?, ?)`;
export const findSolve = `SELECT ${columns} FROM solves WHERE id = ?`;
export const listSolves = `SELECT ${columns} FROM solves WHERE screen_id = ? ORDER BY id DESC`;
export const listFrames = `
  SELECT frame, homography, sigma, trust, evidence, information, blur, own, reason
  FROM solve_frames
  WHERE solve_id = ?
  ORDER BY frame`;
export const putFrame = `
  INSERT INTO solve_frames (solve_id, frame, homography, sigma, trust, evidence, information, blur, seen, own, reason)
  VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
  ON DUPLICATE KEY UPDATE homography = VALUES(homography), sigma = VALUES(sigma), trust = VALUES(trust),
    evidence = VALUES(evidence), information = VALUES(information), blur = VALUES(blur), seen = VALUES(seen),
    own = VALUES(own), reason = VALUES(reason)`;
export const checkpoint = {
  forwards: `UPDATE solves SET forwards = ? WHERE id = ?`,
  backwards: `UPDATE solves SET backwards = ? WHERE id = ?`,
} as const;
export const dropAfter = `DELETE FROM solve_frames WHERE solve_id = ? AND frame > ?`;
export const dropBefore = `DELETE FROM solve_frames WHERE solve_id = ? AND frame < ?`;
/** All that a solve holds of its frames, for taking it elsewhere. */
export const wholeFrames = `
  SELECT frame, homography, sigma, trust, evidence, information, blur, seen, own, reason
  FROM solve_frames
  WHERE solve_id = ?
  ORDER BY frame`;
export const findSeen = `SELECT seen FROM solve_frames WHERE solve_id = ? AND frame = ?`;
