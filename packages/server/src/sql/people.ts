/** Who may work here, and how they are known again. */
const columns = `id, name, is_admin AS isAdmin, is_shut AS isShut, password IS NOT NULL AS hasPassword, created, seen`;
export const listPeople = `SELECT ${columns} FROM people ORDER BY name`;
export const findPerson = `SELECT ${columns} FROM people WHERE id = ?`;
export const countPeople = `SELECT COUNT(*) AS n FROM people WHERE password IS NOT NULL`;
export const removeUnjoined = `DELETE FROM people WHERE password IS NULL`;
export const insertPerson = `INSERT INTO people (name, is_admin) VALUES (?, ?)`;
export const savePerson = `UPDATE people SET is_admin = ?, is_shut = ? WHERE id = ?`;
/** Locked, so that two who step down at once do not both count the other. */
export const administrators = `
  SELECT id FROM people
  WHERE is_admin AND NOT is_shut AND password IS NOT NULL
  FOR UPDATE`;
export const passwordOf = `SELECT id, password FROM people WHERE name = ? AND NOT is_shut AND password IS NOT NULL`;
export const passwordById = `SELECT id, password FROM people WHERE id = ? AND password IS NOT NULL`;
export const setPassword = `UPDATE people SET password = ? WHERE id = ?`;
export const join = `UPDATE people SET name = ?, password = ? WHERE id = ?`;
export const wasSeen = `UPDATE people SET seen = UTC_TIMESTAMP(3) WHERE id = ?`;

export const insertSignIn = `
  INSERT INTO sign_ins (token_hash, person_id, expires)
  VALUES (?, ?, UTC_TIMESTAMP(3) + INTERVAL ? DAY)`;
export const personOfSignIn = `
  SELECT p.id, p.name, p.is_admin AS isAdmin
  FROM sign_ins s
  JOIN people p ON p.id = s.person_id
  WHERE s.token_hash = ? AND s.expires > UTC_TIMESTAMP(3) AND NOT p.is_shut`;
export const removeSignIn = `DELETE FROM sign_ins WHERE token_hash = ?`;
export const removeSignIns = `DELETE FROM sign_ins WHERE person_id = ?`;
export const removeExpired = `DELETE FROM sign_ins WHERE expires <= UTC_TIMESTAMP(3)`;

export const saveInvitation = `
  INSERT INTO invitations (person_id, token_hash, expires)
  VALUES (?, ?, UTC_TIMESTAMP(3) + INTERVAL ? HOUR)
  ON DUPLICATE KEY UPDATE token_hash = VALUES(token_hash), expires = VALUES(expires)`;
export const findInvitation = `
  SELECT i.person_id AS personId, p.name, i.expires
  FROM invitations i
  JOIN people p ON p.id = i.person_id
  WHERE i.token_hash = ? AND i.expires > UTC_TIMESTAMP(3) AND NOT p.is_shut`;
export const removeInvitation = `DELETE FROM invitations WHERE token_hash = ? AND expires > UTC_TIMESTAMP(3)`;
export const removeInvitations = `DELETE FROM invitations WHERE person_id = ?`;
