-- +goose Up
-- What comes too late of several windows, or was begun from another state of the copy, takes nothing's place.
alter table late add draft text not null default '', add base integer not null default 0,
  drop constraint late_pkey, add primary key (thing, account, draft, base);
