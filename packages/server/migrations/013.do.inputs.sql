-- What a frame was followed with beyond its section's settings: where what passes in front lay, how spots were placed.
ALTER TABLE solve_frames ADD COLUMN inputs JSON NULL;
