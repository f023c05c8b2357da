-- What following made of a frame on which somebody placed the pin.
ALTER TABLE solve_frames ADD COLUMN own JSON NULL;
