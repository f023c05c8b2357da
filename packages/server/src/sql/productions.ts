export const insertProduction = `INSERT INTO productions (name) VALUES (?)`;
export const listProductions = `
  SELECT p.id, p.name, p.created, COUNT(s.id) AS shots
  FROM productions p
  LEFT JOIN shots s ON s.production_id = p.id AND s.binned IS NULL
  WHERE p.binned IS NULL
  GROUP BY p.id
  ORDER BY p.id`;
export const findProduction = `SELECT id, name, created FROM productions WHERE id = ? AND binned IS NULL`;
export const renameProduction = `UPDATE productions SET name = ? WHERE id = ? AND binned IS NULL`;
