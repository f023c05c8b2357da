export const findTaken = `SELECT media_hash AS mediaHash, shot_id AS shotId FROM taken_uploads WHERE upload = ?`;
export const insertTaken = `INSERT IGNORE INTO taken_uploads (upload, media_hash) VALUES (?, ?)`;
export const becameShot = `UPDATE taken_uploads SET shot_id = ? WHERE upload = ?`;
