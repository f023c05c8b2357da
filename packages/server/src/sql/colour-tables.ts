export const insertTable = `INSERT IGNORE INTO colour_tables (hash, name, body) VALUES (?, ?, ?)`;
export const listTables = `SELECT hash, name FROM colour_tables ORDER BY name, created`;
export const findTable = `SELECT hash, name, body FROM colour_tables WHERE hash = ?`;
