-- What a frame's evidence knows of the corners (8x8, upper triangle, px^-2) and how far the fastest corner moves while the
-- shutter is open (px): the second pass over a shot and the renderer need them. Solves of before have neither.
ALTER TABLE solve_frames ADD COLUMN information JSON NOT NULL DEFAULT ('[]'), ADD COLUMN blur DOUBLE NOT NULL DEFAULT 0;
