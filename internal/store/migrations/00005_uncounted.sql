-- +goose Up
-- Words that can't be counted are told from none.
alter table work add column uncounted boolean not null default false;
