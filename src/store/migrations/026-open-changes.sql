-- Changes that are not over are found without reading those that are.
CREATE INDEX change_open ON change (created_real) WHERE stage IS NOT NULL OR state NOT IN ('done', 'undone');
