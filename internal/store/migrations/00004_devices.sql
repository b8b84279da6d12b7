-- +goose Up
-- Devices from which somebody signed in, by a digest of what their browser keeps.
create table devices (
	device bytea not null,
	account text not null,
	at timestamptz not null,
	primary key (device, account)
);
create index devices_at on devices (at);
