-- +goose Up
-- What an account owns is weighed.
create index on standin.things (owner);
