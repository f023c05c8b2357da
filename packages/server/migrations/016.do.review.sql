-- What somebody who looks at a shot says of it: words and strokes on frames, and how the shot stands as a whole.
CREATE TABLE review_notes (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id INT UNSIGNED NOT NULL,
  screen_id INT UNSIGNED NULL,
  corner TINYINT UNSIGNED NULL,
  from_frame INT UNSIGNED NOT NULL,
  to_frame INT UNSIGNED NOT NULL,
  words TEXT NOT NULL,
  strokes JSON NOT NULL,
  state ENUM('open', 'done', 'approved') NOT NULL DEFAULT 'open',
  author VARCHAR(120) NOT NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  changed DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
  KEY by_shot (shot_id, from_frame),
  CONSTRAINT note_shot FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE,
  CONSTRAINT note_screen FOREIGN KEY (screen_id) REFERENCES screens (id) ON DELETE SET NULL
);
ALTER TABLE shots ADD COLUMN standing ENUM('in work', 'to be looked at', 'once more', 'approved') NOT NULL DEFAULT 'in work';
