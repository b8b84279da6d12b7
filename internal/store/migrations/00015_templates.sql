-- +goose Up
-- A template that was taken off its teacher's list; handouts that give it go on to.
alter table templates add column removed_at timestamptz;
