export const findCamera = `
  SELECT settings, media_hash AS mediaHash, solved_with AS solvedWith, solved, told, made
  FROM cameras
  WHERE shot_id = ?`;
export const putSettings = `
  INSERT INTO cameras (shot_id, settings) VALUES (?, ?)
  ON DUPLICATE KEY UPDATE settings = VALUES(settings)`;
/** Under the job's lease. */
export const putSolved = `
  INSERT INTO cameras (shot_id, settings, media_hash, solved_with, solved, told, made)
  VALUES (?, ?, ?, ?, ?, ?, NOW(3))
  ON DUPLICATE KEY UPDATE media_hash = VALUES(media_hash), solved_with = VALUES(solved_with), solved = VALUES(solved),
    told = VALUES(told), made = VALUES(made)`;
/** Of a shot as long as its plate is the one that was solved, and the range that is worked on. */
export const sceneOfShot = `
  SELECT cameras.solved, shots.range_from AS rangeFrom, shots.range_to AS rangeTo
  FROM shots
  JOIN cameras ON cameras.shot_id = shots.id AND cameras.media_hash = ?
  WHERE shots.id = ? AND cameras.solved IS NOT NULL`;
