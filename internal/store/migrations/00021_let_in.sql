-- +goose Up
-- Whom a student let into their copies of a handout, where its teacher lets them.
create table let_in (
  handout_id uuid        not null references handouts on delete cascade,
  row_id     uuid        not null references rows on delete cascade, -- whose copies
  mate       uuid        not null references rows on delete cascade,
  at         timestamptz not null,
  primary key (handout_id, row_id, mate),
  check (row_id <> mate)
);
