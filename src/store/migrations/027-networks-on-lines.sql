-- Networks that run over a link between sites.
ALTER TABLE site_link ADD COLUMN networks TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(networks));
