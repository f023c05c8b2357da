-- Frames whose data could not be read as it was written, as ranges from, to.
ALTER TABLE media ADD COLUMN damaged JSON NOT NULL DEFAULT '[]';

-- What was deleted lies in the bin from then on, until it is taken out again or its days are over.
ALTER TABLE productions ADD COLUMN binned DATETIME(3) NULL;
ALTER TABLE shots ADD COLUMN binned DATETIME(3) NULL;
ALTER TABLE deliveries ADD COLUMN binned DATETIME(3) NULL;
ALTER TABLE media ADD COLUMN binned DATETIME(3) NULL;
ALTER TABLE colour_tables ADD COLUMN binned DATETIME(3) NULL;
