-- Attaching in depth: fabrics and zoning, iSCSI access and name service, NVMe subsystems, host ports of both kinds, clusters, path policy.
ALTER TABLE array ADD COLUMN wwnn TEXT;
ALTER TABLE array ADD COLUMN path_access TEXT NOT NULL DEFAULT 'asymmetric';
ALTER TABLE array ADD COLUMN auth TEXT NOT NULL DEFAULT 'none';
ALTER TABLE array ADD COLUMN auth_server TEXT REFERENCES auth_server DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE array ADD COLUMN chap_name TEXT NOT NULL DEFAULT '';
ALTER TABLE array ADD COLUMN chap_secret TEXT;
ALTER TABLE array ADD COLUMN header_digest TEXT NOT NULL DEFAULT 'either';
ALTER TABLE array ADD COLUMN data_digest TEXT NOT NULL DEFAULT 'either';
ALTER TABLE array ADD COLUMN isns INTEGER NOT NULL DEFAULT 1;

ALTER TABLE volume ADD COLUMN shared INTEGER NOT NULL DEFAULT 0;
ALTER TABLE volume ADD COLUMN important INTEGER NOT NULL DEFAULT 0;

ALTER TABLE network ADD COLUMN vlan INTEGER NOT NULL DEFAULT 0;
ALTER TABLE network ADD COLUMN routes TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(routes));

CREATE TABLE fabric (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  default_zone TEXT NOT NULL CHECK (default_zone IN ('deny', 'permit')),
  merge_control TEXT NOT NULL CHECK (merge_control IN ('allow', 'restrict')),
  active_set TEXT,
  activated_at REAL,
  ra_tov INTEGER NOT NULL,
  ed_tov INTEGER NOT NULL,
  zone_pattern TEXT NOT NULL,
  alias_pattern TEXT NOT NULL
) STRICT;

CREATE TABLE switch (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  fabric TEXT NOT NULL REFERENCES fabric DEFERRABLE INITIALLY DEFERRED,
  site TEXT NOT NULL REFERENCES site DEFERRABLE INITIALLY DEFERRED,
  domain INTEGER NOT NULL CHECK (domain BETWEEN 1 AND 239),
  ports INTEGER NOT NULL,
  speed REAL NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('up', 'down'))
) STRICT;

CREATE TABLE isl (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  a TEXT NOT NULL REFERENCES switch DEFERRABLE INITIALLY DEFERRED,
  a_port INTEGER NOT NULL,
  b TEXT NOT NULL REFERENCES switch DEFERRABLE INITIALLY DEFERRED,
  b_port INTEGER NOT NULL,
  speed REAL NOT NULL,
  km REAL NOT NULL,
  credits INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('up', 'down'))
) STRICT;

CREATE TABLE alias (
  id TEXT PRIMARY KEY,
  fabric TEXT NOT NULL REFERENCES fabric DEFERRABLE INITIALLY DEFERRED,
  name TEXT NOT NULL,
  members TEXT NOT NULL CHECK (json_valid(members)),
  UNIQUE (fabric, name)
) STRICT;

CREATE TABLE zone (
  id TEXT PRIMARY KEY,
  fabric TEXT NOT NULL REFERENCES fabric DEFERRABLE INITIALLY DEFERRED,
  name TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('ordinary', 'peer')),
  members TEXT NOT NULL CHECK (json_valid(members)),
  principals TEXT NOT NULL CHECK (json_valid(principals)),
  UNIQUE (fabric, name)
) STRICT;

CREATE TABLE zone_set (
  id TEXT PRIMARY KEY,
  fabric TEXT NOT NULL REFERENCES fabric DEFERRABLE INITIALLY DEFERRED,
  name TEXT NOT NULL,
  zones TEXT NOT NULL CHECK (json_valid(zones)),
  UNIQUE (fabric, name)
) STRICT;

CREATE TABLE active_zone (
  id TEXT PRIMARY KEY,
  fabric TEXT NOT NULL REFERENCES fabric DEFERRABLE INITIALLY DEFERRED,
  name TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('ordinary', 'peer')),
  members TEXT NOT NULL CHECK (json_valid(members)),
  principals TEXT NOT NULL CHECK (json_valid(principals)),
  UNIQUE (fabric, name)
) STRICT;

ALTER TABLE port ADD COLUMN switch TEXT REFERENCES switch DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE port ADD COLUMN switch_port INTEGER NOT NULL DEFAULT 0;
ALTER TABLE port ADD COLUMN vlan INTEGER;
ALTER TABLE port ADD COLUMN gateway TEXT;
ALTER TABLE port ADD COLUMN command_limit INTEGER NOT NULL DEFAULT 2048;

ALTER TABLE host ADD COLUMN nqn TEXT;
ALTER TABLE host ADD COLUMN host_nqn_id TEXT;
ALTER TABLE host ADD COLUMN discovery TEXT NOT NULL DEFAULT 'addresses';
ALTER TABLE host ADD COLUMN auto_login INTEGER NOT NULL DEFAULT 1;
ALTER TABLE host ADD COLUMN auto_rescan INTEGER NOT NULL DEFAULT 0;
ALTER TABLE host ADD COLUMN multipath INTEGER NOT NULL DEFAULT 1;
ALTER TABLE host ADD COLUMN selector TEXT NOT NULL DEFAULT 'round-robin';
ALTER TABLE host ADD COLUMN chap_name TEXT NOT NULL DEFAULT '';
ALTER TABLE host ADD COLUMN chap_secret TEXT;
ALTER TABLE host ADD COLUMN target_secret TEXT;
ALTER TABLE host ADD COLUMN header_digest TEXT NOT NULL DEFAULT 'either';
ALTER TABLE host ADD COLUMN data_digest TEXT NOT NULL DEFAULT 'either';
ALTER TABLE host ADD COLUMN queue_depth INTEGER NOT NULL DEFAULT 32;
ALTER TABLE host ADD COLUMN command_limit INTEGER NOT NULL DEFAULT 1024;
ALTER TABLE host ADD COLUMN keep_alive INTEGER NOT NULL DEFAULT 5000;
ALTER TABLE host ADD COLUMN reconnect_delay INTEGER NOT NULL DEFAULT 10000;
ALTER TABLE host ADD COLUMN loss_time INTEGER NOT NULL DEFAULT 600000;
ALTER TABLE host ADD COLUMN no_path_wait INTEGER NOT NULL DEFAULT 60000;

ALTER TABLE initiator ADD COLUMN chap_name TEXT NOT NULL DEFAULT '';
ALTER TABLE initiator ADD COLUMN chap_secret TEXT;

ALTER TABLE interface RENAME TO interface_before;
CREATE TABLE interface (
  id TEXT PRIMARY KEY,
  host TEXT REFERENCES host DEFERRABLE INITIALLY DEFERRED,
  name TEXT NOT NULL,
  kind TEXT NOT NULL DEFAULT 'ethernet' CHECK (kind IN ('ethernet', 'fc')),
  addresses TEXT NOT NULL CHECK (json_valid(addresses)),
  mtu INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('up', 'down')),
  speed REAL NOT NULL DEFAULT 25,
  adapter TEXT NOT NULL DEFAULT '',
  wwpn TEXT,
  wwnn TEXT,
  switch TEXT REFERENCES switch DEFERRABLE INITIALLY DEFERRED,
  switch_port INTEGER NOT NULL DEFAULT 0,
  vlan INTEGER,
  gateway TEXT,
  bound INTEGER NOT NULL DEFAULT 0,
  uplinks TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(uplinks)),
  UNIQUE (host, name)
) STRICT;
INSERT INTO interface (id, host, name, addresses, mtu, state) SELECT id, host, name, addresses, mtu, state FROM interface_before;
DROP TABLE interface_before;
CREATE INDEX interface_host ON interface (host);

CREATE TABLE login (
  id TEXT PRIMARY KEY,
  host TEXT NOT NULL REFERENCES host DEFERRABLE INITIALLY DEFERRED,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  UNIQUE (host, array)
) STRICT;

CREATE TABLE access (
  id TEXT PRIMARY KEY,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  initiator TEXT NOT NULL REFERENCES initiator DEFERRABLE INITIALLY DEFERRED,
  level TEXT NOT NULL CHECK (level IN ('read-write', 'read-only', 'none')),
  UNIQUE (array, initiator)
) STRICT;

CREATE TABLE auth_server (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  ip TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('up', 'down')),
  secret TEXT,
  accounts TEXT NOT NULL CHECK (json_valid(accounts))
) STRICT;

CREATE TABLE name_server (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  ip TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('up', 'down')),
  default_domain INTEGER NOT NULL
) STRICT;

CREATE TABLE discovery_domain (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  members TEXT NOT NULL CHECK (json_valid(members)),
  portals TEXT NOT NULL CHECK (json_valid(portals))
) STRICT;

CREATE TABLE domain_set (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  domains TEXT NOT NULL CHECK (json_valid(domains)),
  enabled INTEGER NOT NULL
) STRICT;

CREATE TABLE subsystem (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  nqn TEXT NOT NULL UNIQUE,
  allow_any INTEGER NOT NULL,
  allowed TEXT NOT NULL CHECK (json_valid(allowed)),
  ports TEXT CHECK (json_valid(ports)),
  controller_limit INTEGER NOT NULL,
  UNIQUE (array, name)
) STRICT;

ALTER TABLE mapping ADD COLUMN cluster TEXT REFERENCES cluster DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE mapping ADD COLUMN subsystem TEXT REFERENCES subsystem DEFERRABLE INITIALLY DEFERRED;

ALTER TABLE host_device ADD COLUMN selector TEXT;
ALTER TABLE host_device ADD COLUMN state TEXT NOT NULL DEFAULT 'online';
ALTER TABLE host_device ADD COLUMN initialised INTEGER NOT NULL DEFAULT 0;
ALTER TABLE host_device ADD COLUMN persistent INTEGER NOT NULL DEFAULT 1;
UPDATE host_device SET initialised = 1 WHERE file_system IS NOT NULL;

-- What happened to paths, as hosts noticed it.
CREATE TABLE path_event (
  id INTEGER PRIMARY KEY,
  at REAL NOT NULL,
  host TEXT NOT NULL,
  array TEXT NOT NULL,
  interface TEXT NOT NULL,
  port TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  reason TEXT NOT NULL,
  noticed_after REAL NOT NULL
) STRICT;
CREATE INDEX path_event_host ON path_event (host, at);

-- Secrets, sealed with a key that lies in a file of its own.
CREATE TABLE sealed_secret (fingerprint TEXT PRIMARY KEY, box BLOB NOT NULL) STRICT;
