-- +goose Up
-- What everybody may do who has the link.
alter table standin.things add school integer not null default 0;
