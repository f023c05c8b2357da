export const findProof = `SELECT identity, frames FROM proofs WHERE screen_id = ?`;
/** Under the job's lease. */
export const putProof = `
  INSERT INTO proofs (screen_id, identity, frames) SELECT screen_id, ?, ?
  FROM jobs
  WHERE id = ?
  ON DUPLICATE KEY UPDATE identity = VALUES(identity), frames = VALUES(frames)`;
