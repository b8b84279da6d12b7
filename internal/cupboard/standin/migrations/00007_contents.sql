-- +goose Up
-- Contents that nothing has are found, and dropped.
create index on standin.versions (sha);
create index on standin.things (sha) where sha is not null;
