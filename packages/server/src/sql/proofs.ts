export const findProof = `SELECT identity, frames FROM proofs WHERE screen_id = ?`;
/** Under the job's token: a run that lost its lease writes nothing more. */
export const putProof = `
  INSERT INTO proofs (screen_id, identity, frames) SELECT screen_id, ?, ? FROM jobs WHERE id = ? AND token = ? AND state = 'running'
  ON DUPLICATE KEY UPDATE identity = VALUES(identity), frames = VALUES(frames)`;
