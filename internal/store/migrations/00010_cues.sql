-- +goose Up
-- A colour and a symbol by which a young student knows the own satchel.
create table cues (
  row_id uuid primary key references rows on delete cascade,
  colour text not null,
  symbol text not null
);
