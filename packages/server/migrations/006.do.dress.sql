-- What the person set of the plate's colour, before its tags; null where the tags hold.
ALTER TABLE shots ADD COLUMN colour JSON NULL;

-- Depth order: the Screen with the highest number stands in front.
ALTER TABLE screens ADD COLUMN depth INT NOT NULL DEFAULT 0;
UPDATE screens SET depth = id;

CREATE TABLE colour_tables (
  hash CHAR(64) CHARACTER SET ascii PRIMARY KEY,
  name VARCHAR(255) NOT NULL,
  body MEDIUMTEXT NOT NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
