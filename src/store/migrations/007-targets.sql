-- iSCSI targets are things of their own: what an array said of its one target becomes the array's main target.
CREATE TABLE target (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  iqn TEXT NOT NULL UNIQUE,
  main INTEGER NOT NULL CHECK (main IN (0, 1)),
  enabled INTEGER NOT NULL CHECK (enabled IN (0, 1)),
  portals TEXT CHECK (json_valid(portals)),
  anyone INTEGER NOT NULL CHECK (anyone IN (0, 1)),
  usual TEXT NOT NULL CHECK (usual IN ('read-write', 'read-only', 'none')),
  rules TEXT NOT NULL CHECK (json_valid(rules)),
  auth TEXT NOT NULL CHECK (auth IN ('none', 'one-way', 'mutual')),
  auth_server TEXT REFERENCES auth_server DEFERRABLE INITIALLY DEFERRED,
  accounts TEXT NOT NULL CHECK (json_valid(accounts)),
  chap_name TEXT NOT NULL,
  chap_secret TEXT,
  header_digest TEXT NOT NULL,
  data_digest TEXT NOT NULL,
  session_limit INTEGER,
  max_connections INTEGER NOT NULL,
  isns INTEGER NOT NULL CHECK (isns IN (0, 1)),
  UNIQUE (array, name)
) STRICT;
INSERT INTO target (id, name, array, iqn, main, enabled, portals, anyone, usual, rules, auth, auth_server, accounts, chap_name, chap_secret,
    header_digest, data_digest, session_limit, max_connections, isns)
  SELECT 'tgt_' || CASE WHEN id LIKE 'arr\_%' ESCAPE '\' THEN substr(id, 5) ELSE id END, 'main', id, iqn, 1, 1, NULL, 0, 'read-write', '[]',
    auth, auth_server, '[]', chap_name, chap_secret, header_digest, data_digest, NULL, 1, isns FROM array;

ALTER TABLE array RENAME TO array_before;
CREATE TABLE array (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  site TEXT NOT NULL REFERENCES site DEFERRABLE INITIALLY DEFERRED,
  model TEXT NOT NULL,
  company_id TEXT NOT NULL,
  wwnn TEXT,
  path_access TEXT NOT NULL DEFAULT 'asymmetric'
) STRICT;
INSERT INTO array (id, name, site, model, company_id, wwnn, path_access)
  SELECT id, name, site, model, company_id, wwnn, path_access FROM array_before;
DROP TABLE array_before;

-- A host is told to log in at one target, or at all it is offered.
ALTER TABLE login RENAME TO login_before;
CREATE TABLE login (
  id TEXT PRIMARY KEY,
  host TEXT NOT NULL REFERENCES host DEFERRABLE INITIALLY DEFERRED,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  target TEXT REFERENCES target DEFERRABLE INITIALLY DEFERRED,
  UNIQUE (host, array, target)
) STRICT;
INSERT INTO login (id, host, array) SELECT id, host, array FROM login_before;
DROP TABLE login_before;

ALTER TABLE mapping ADD COLUMN target TEXT REFERENCES target DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE port ADD COLUMN tcp_port INTEGER;
ALTER TABLE host ADD COLUMN connections INTEGER NOT NULL DEFAULT 1;
