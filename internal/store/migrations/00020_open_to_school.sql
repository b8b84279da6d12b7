-- +goose Up
-- What everybody may do with a thing who has its link.
alter table observed add column school integer not null default 0;
