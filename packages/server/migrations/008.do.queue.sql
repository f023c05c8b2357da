-- The order in which deliveries that wait are rendered; where nothing is set, the order in which they came.
ALTER TABLE jobs ADD COLUMN place DOUBLE NULL;
