/** What was deleted and can be taken out again, by kind: the same five statements for each. */
export const KINDS = ['production', 'shot', 'delivery', 'media', 'table'] as const;
export type BinKind = (typeof KINDS)[number];

/** Rows that something else refers to: what a person set at any time may come back by undoing. */
const namesHash = (table: string, column: string): string =>
  `EXISTS (SELECT 1 FROM ${table} x WHERE x.${column} LIKE CONCAT('%"', t.hash, '"%'))`;
const INSIDE_WORK = [
  namesHash('screens', 'recipe'),
  namesHash('screen_revisions', 'recipe'),
  namesHash('deliveries', 'settings'),
  namesHash('contents', 'document'),
].join(' OR ');
const PLATE = `EXISTS (SELECT 1 FROM shots x WHERE x.media_hash = t.hash)`;

interface Statements {
  /** key -> the row's name, whether it lies in the bin, and whether something needs it */
  readonly find: string;
  readonly put: string;
  readonly takeOut: string;
  /** all in the bin: key, name, where it was, since when */
  readonly list: string;
  readonly remove: string;
}

function statements(o: {
  readonly table: string;
  readonly key: string;
  readonly name: string;
  readonly where: string;
  readonly needed: string;
}): Statements {
  return {
    find: `SELECT t.${o.name} AS name, t.binned IS NOT NULL AS isBinned, ${o.needed} AS isNeeded FROM ${o.table} t WHERE t.${o.key} = ?`,
    put: `UPDATE ${o.table} SET binned = NOW(3) WHERE ${o.key} = ? AND binned IS NULL`,
    takeOut: `UPDATE ${o.table} SET binned = NULL WHERE ${o.key} = ?`,
    list: `SELECT t.${o.key} AS \`key\`, t.${o.name} AS name, ${o.where} AS place, t.binned FROM ${o.table} t WHERE t.binned IS NOT NULL`,
    remove: `DELETE FROM ${o.table} WHERE ${o.key} = ? AND binned IS NOT NULL`,
  };
}

export const BIN: Readonly<Record<BinKind, Statements>> = {
  production: statements({ table: 'productions', key: 'id', name: 'name', where: `''`, needed: '0' }),
  shot: statements({
    table: 'shots',
    key: 'id',
    name: 'name',
    where: '(SELECT p.name FROM productions p WHERE p.id = t.production_id)',
    needed: '0',
  }),
  delivery: statements({
    table: 'deliveries',
    key: 'id',
    name: 'file_name',
    where: '(SELECT s.name FROM shots s WHERE s.id = t.shot_id)',
    needed: '0',
  }),
  media: statements({
    table: 'media',
    key: 'hash',
    name: 'name',
    where: `''`,
    needed: `(${PLATE} OR ${INSIDE_WORK})`,
  }),
  table: statements({ table: 'colour_tables', key: 'hash', name: 'name', where: `''`, needed: `(${INSIDE_WORK})` }),
};

/** What lies in the bin longer than so many days. */
export const expired = (kind: BinKind): string =>
  `SELECT b.\`key\` FROM (${BIN[kind].list}) b WHERE b.binned < NOW(3) - INTERVAL ? DAY`;

const OF_SHOTS: Readonly<Partial<Record<BinKind, string>>> = {
  production: 'shot_id IN (SELECT id FROM shots WHERE production_id = ?)',
  shot: 'shot_id = ?',
  delivery: 'delivery_id = ?',
};
/** Runs for what goes into the bin end. @returns null where nothing runs for that kind */
export function endRuns(kind: BinKind): readonly [waiting: string, running: string] | null {
  const which = OF_SHOTS[kind];
  if (!which) return null;
  return [
    `UPDATE jobs SET state = 'cancelled' WHERE ${which} AND state IN ('waiting', 'paused')`,
    `UPDATE jobs SET cancel_wanted = 1 WHERE ${which} AND state = 'running'`,
  ];
}

/** Deliveries whose files go with a production, a shot or a delivery. */
export const deliveriesOf: Readonly<Partial<Record<BinKind, string>>> = {
  production: `SELECT d.id, d.bytes FROM deliveries d JOIN shots s ON s.id = d.shot_id WHERE s.production_id = ?`,
  shot: `SELECT id, bytes FROM deliveries WHERE shot_id = ?`,
  delivery: `SELECT id, bytes FROM deliveries WHERE id = ?`,
};

/** What goes with it, as numbers. */
export const goesWith: Readonly<Partial<Record<BinKind, string>>> = {
  production: `
    SELECT COUNT(DISTINCT s.id) AS shots, COUNT(DISTINCT c.id) AS screens, COUNT(DISTINCT d.id) AS deliveries
    FROM shots s
    LEFT JOIN screens c ON c.shot_id = s.id
    LEFT JOIN deliveries d ON d.shot_id = s.id
    WHERE s.production_id = ?`,
  shot: `
    SELECT 0 AS shots,
      (SELECT COUNT(*) FROM screens c WHERE c.shot_id = s.id) AS screens,
      (SELECT COUNT(*) FROM deliveries d WHERE d.shot_id = s.id) AS deliveries
    FROM shots s
    WHERE s.id = ?`,
};

/** Media with whether anything needs them. */
export const mediaInUse = `
  SELECT t.hash, t.name, t.binned IS NOT NULL AS isBinned, (${PLATE} OR ${INSIDE_WORK}) AS isNeeded
  FROM media t
  ORDER BY t.name`;
/** Plates of productions that are not in the bin. */
export const platesOfProductions = `
  SELECT DISTINCT p.id, p.name, s.media_hash AS hash
  FROM productions p
  JOIN shots s ON s.production_id = p.id
  WHERE p.binned IS NULL AND s.binned IS NULL`;
export const deliveredOfProductions = `
  SELECT p.id, COALESCE(SUM(d.bytes), 0) AS bytes
  FROM productions p
  LEFT JOIN shots s ON s.production_id = p.id
  LEFT JOIN deliveries d ON d.shot_id = s.id AND d.binned IS NULL
  WHERE p.binned IS NULL
  GROUP BY p.id`;
