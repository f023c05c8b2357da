-- Who may work here, where an installation has accounts. Of tokens only the hash is kept: whoever reads the table cannot use it.
CREATE TABLE people (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  password VARCHAR(255) NULL,
  is_admin BOOLEAN NOT NULL DEFAULT FALSE,
  is_shut BOOLEAN NOT NULL DEFAULT FALSE,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  seen DATETIME(3) NULL,
  UNIQUE KEY by_name (name)
);
CREATE TABLE sign_ins (
  token_hash CHAR(64) NOT NULL PRIMARY KEY,
  person_id INT UNSIGNED NOT NULL,
  created DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  expires DATETIME(3) NOT NULL,
  KEY by_person (person_id),
  CONSTRAINT sign_in_person FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
);
CREATE TABLE invitations (
  person_id INT UNSIGNED NOT NULL PRIMARY KEY,
  token_hash CHAR(64) NOT NULL,
  expires DATETIME(3) NOT NULL,
  UNIQUE KEY by_token (token_hash),
  CONSTRAINT invitation_person FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
);
