-- Made-up content as documents of their own, which several Screens may show.
CREATE TABLE contents (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  production_id INT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  document JSON NOT NULL,
  revision INT UNSIGNED NOT NULL DEFAULT 1,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  changed DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
  KEY by_production (production_id, id),
  CONSTRAINT content_production FOREIGN KEY (production_id) REFERENCES productions (id) ON DELETE CASCADE
);
