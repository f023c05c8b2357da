export const insertTable = `INSERT INTO colour_tables (hash, name, body) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE binned = NULL`;
export const listTables = `SELECT hash, name FROM colour_tables WHERE binned IS NULL ORDER BY name, created`;
export const findTable = `SELECT hash, name, body FROM colour_tables WHERE hash = ?`;
