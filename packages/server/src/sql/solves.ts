const head = `id, screen_id AS screenId, identity, pin, reference_frame AS referenceFrame, lens`;
export const insertSolve = `INSERT INTO solves (screen_id, identity, pin, reference_frame, lens) VALUES (?, ?, ?, ?, ?)`;
/** Without the follower's memory, which is large. */
export const listSolves = `SELECT ${head} FROM solves WHERE screen_id = ? ORDER BY id DESC`;
/** Of a Screen's solves those in a list with commas. */
export const memoriesOf = `SELECT id, forwards, backwards FROM solves WHERE screen_id = ? AND FIND_IN_SET(id, ?)`;
/** What the follower learnt of the camera, of each direction; solves as for {@link memoriesOf}. */
export const learntIn = `
  SELECT JSON_EXTRACT(forwards, '$.state.lens') AS forwardsLens, JSON_EXTRACT(backwards, '$.state.lens') AS backwardsLens,
    JSON_EXTRACT(forwards, '$.state.shutter') AS forwardsShutter, JSON_EXTRACT(backwards, '$.state.shutter') AS backwardsShutter
  FROM solves
  WHERE screen_id = ? AND FIND_IN_SET(id, ?)`;
const ofFrame = `solve_id AS solveId, frame, homography, sigma, trust, evidence, information, blur, own, lens, bow, inputs, reason`;
export const listFrames = `
  SELECT ${ofFrame}
  FROM solve_frames
  WHERE solve_id = ? AND frame BETWEEN ? AND ?
  ORDER BY frame`;
/** Frames of a Screen as they were found last with whatever settings, from one reference frame. */
export const listNewest = `
  SELECT ${ofFrame}
  FROM solve_frames
  JOIN (
    SELECT frame, MAX(solve_id) AS solve_id
    FROM solve_frames
    WHERE solve_id IN (SELECT id FROM solves WHERE screen_id = ? AND reference_frame = ?) AND homography IS NOT NULL
    GROUP BY frame
  ) newest USING (solve_id, frame)
  ORDER BY frame`;
/** Where frames lie that a solve holds, and whether the Screen was found on them. */
export const framesIn = `
  SELECT frame, homography, inputs
  FROM solve_frames
  WHERE solve_id = ? AND frame BETWEEN ? AND ?
  ORDER BY frame`;
export const putFrame = `
  INSERT INTO solve_frames (solve_id, frame, homography, sigma, trust, evidence, information, blur, seen, own, lens, bow,
    inputs, reason)
  VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
  ON DUPLICATE KEY UPDATE homography = VALUES(homography), sigma = VALUES(sigma), trust = VALUES(trust),
    evidence = VALUES(evidence), information = VALUES(information), blur = VALUES(blur), seen = VALUES(seen),
    own = VALUES(own), lens = VALUES(lens), bow = VALUES(bow), inputs = VALUES(inputs), reason = VALUES(reason)`;
export const checkpoint = {
  forwards: `UPDATE solves SET forwards = ? WHERE id = ?`,
  backwards: `UPDATE solves SET backwards = ? WHERE id = ?`,
} as const;
/** Where none is kept of a frame that lies farther from the reference. */
export const fartherCheckpoint = {
  forwards: `UPDATE solves SET forwards = ? WHERE id = ? AND COALESCE(JSON_VALUE(forwards, '$.frame'), 0) <= ?`,
  backwards: `UPDATE solves SET backwards = ? WHERE id = ? AND COALESCE(JSON_VALUE(backwards, '$.frame'), 2147483647) >= ?`,
} as const;
export const dropFrames = `DELETE FROM solve_frames WHERE solve_id = ? AND frame BETWEEN ? AND ?`;
/** All that a solve holds of its frames, for taking it elsewhere. */
export const wholeFrames = `
  SELECT frame, homography, sigma, trust, evidence, information, blur, seen, own, lens, bow, reason
  FROM solve_frames
  WHERE solve_id = ?
  ORDER BY frame`;
export const findSeen = `SELECT seen FROM solve_frames WHERE solve_id = ? AND frame = ?`;
