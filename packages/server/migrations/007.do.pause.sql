-- A delivery can be paused: it keeps what it has rendered. What a run is asked for: 1 to stop for good, 2 to pause.
ALTER TABLE jobs MODIFY state ENUM('waiting', 'running', 'done', 'failed', 'cancelled', 'paused') NOT NULL DEFAULT 'waiting';
