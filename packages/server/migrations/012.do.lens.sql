-- The lens that a solve was followed behind where it was typed (null where it is found), that of each frame, and by how much the
-- frame's corners move a unit of it: so a lens that is typed after following asks for no new run. Solves of before have none.
ALTER TABLE solves ADD COLUMN lens DOUBLE NULL;
ALTER TABLE solve_frames ADD COLUMN lens DOUBLE NULL, ADD COLUMN bow JSON NULL;
