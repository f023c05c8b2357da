-- What a frame was followed by, place by place, and where its spots were found: shown on the picture on demand.
ALTER TABLE solve_frames ADD COLUMN seen JSON NOT NULL DEFAULT ('{}');
