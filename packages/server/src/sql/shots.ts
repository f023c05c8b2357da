const columns = `
  s.id, s.production_id AS productionId, s.name, s.media_hash AS mediaHash, s.range_from AS rangeFrom,
    s.range_to AS rangeTo, s.revision, s.standing, s.colour, s.created, m.state AS mediaState, m.problem AS mediaProblem,
    m.probe, m.notes, m.damaged, m.frame_count AS frameCount, m.name AS mediaName`;
export const insertShot = `INSERT INTO shots (production_id, name, media_hash, range_from, range_to) VALUES (?, ?, ?, 0, ?)`;
export const findShot = `
  SELECT ${columns}, s.binned IS NOT NULL OR p.binned IS NOT NULL AS isBinned
  FROM shots s
  JOIN media m ON m.hash = s.media_hash
  JOIN productions p ON p.id = s.production_id
  WHERE s.id = ?`;
export const listShots = `
  SELECT ${columns}, (SELECT COUNT(*) FROM screens c WHERE c.shot_id = s.id) AS screens,
    (SELECT COUNT(*) FROM deliveries d WHERE d.shot_id = s.id AND d.sha256 IS NOT NULL AND d.binned IS NULL) AS deliveries,
    (SELECT COUNT(*) FROM review_notes n WHERE n.shot_id = s.id AND n.state = 'open') AS openNotes,
    (SELECT COUNT(DISTINCT f.frame) FROM screens c JOIN solves v ON v.screen_id = c.id JOIN solve_frames f ON f.solve_id = v.id WHERE c.shot_id = s.id AND f.homography IS NOT NULL) AS solvedFrames
  FROM shots s
  JOIN media m ON m.hash = s.media_hash
  WHERE s.production_id = ? AND s.binned IS NULL
  ORDER BY s.id`;
export const saveShot = `
  UPDATE shots
  SET name = ?, range_from = ?, range_to = ?, colour = ?, revision = revision + 1
  WHERE id = ? AND revision = ?`;
export const relinkShot = `UPDATE shots SET media_hash = ?, range_from = ?, range_to = ?, revision = revision + 1 WHERE id = ?`;
/** Shots that were worked on last: a Screen saved, something delivered or said of it, or the shot itself made. */
export const recentShots = `
  SELECT s.id, s.name, s.production_id AS productionId, p.name AS production, s.media_hash AS mediaHash,
    m.state AS mediaState, m.problem AS mediaProblem, m.frame_count AS frameCount, s.standing,
    (SELECT COUNT(*) FROM review_notes n WHERE n.shot_id = s.id AND n.state = 'open') AS openNotes,
    GREATEST(
      s.created,
      COALESCE((SELECT MAX(c.updated) FROM screens c WHERE c.shot_id = s.id), s.created),
      COALESCE((SELECT MAX(d.created) FROM deliveries d WHERE d.shot_id = s.id), s.created),
      COALESCE((SELECT MAX(n.changed) FROM review_notes n WHERE n.shot_id = s.id), s.created)
    ) AS touched
  FROM shots s
  JOIN productions p ON p.id = s.production_id
  JOIN media m ON m.hash = s.media_hash
  WHERE s.binned IS NULL AND p.binned IS NULL
  ORDER BY touched DESC, s.id DESC
  LIMIT ?`;
