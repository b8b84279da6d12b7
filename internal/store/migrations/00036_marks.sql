-- +goose Up
-- The mark that we put on a thing in the cupboard: from when it is closed, and to whom not.
alter table ledger add closed jsonb;
create index on ledger (class_id) where closed is not null;
alter table runs drop constraint runs_kind_check, add constraint runs_kind_check check (kind in ('pack', 'discard', 'mend', 'mark'));
