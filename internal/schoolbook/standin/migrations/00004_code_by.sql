-- +goose Up
-- Who made an account's code.
alter table schoolbook.accounts add code_by text not null default '';
