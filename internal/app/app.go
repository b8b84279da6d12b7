// Package app puts the parts together: one program from its settings.
package app

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"time"
	_ "time/tzdata" // zone rules ship with the program

	contract "jollysatchel/api"
	"jollysatchel/internal/classroom"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/room"
	cupboard "jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/packer"
	book "jollysatchel/internal/schoolbook"
	schoolbook "jollysatchel/internal/schoolbook/standin"
	"jollysatchel/internal/store"
	"jollysatchel/internal/web"
)

// Settings of a program.
type Settings struct {
	Database string
	School   classroom.School
	Weather  cupboard.Weather
	Now      clock.Clock
	Log      *slog.Logger
}

// An App is the program with everything in place and nothing running yet.
type App struct {
	Settings
	Store  *store.Store
	Cup    *cupboard.Standin
	Book   *schoolbook.Standin
	Packer *packer.Packer
	Rooms  *classroom.Classroom
}

// Open connects to the database, brings it up to date and puts the parts
// together.
func Open(ctx context.Context, s Settings) (*App, error) {
	if s.Log == nil {
		s.Log = slog.New(slog.DiscardHandler)
	}
	st, err := store.Open(ctx, s.Database)
	if err != nil {
		return nil, err
	}
	a := &App{Settings: s, Store: st}
	if err := a.migrate(ctx); err != nil {
		st.Close()
		return nil, fmt.Errorf("bringing the database up to date: %w", err)
	}
	a.Cup = cupboard.New(st.DB, s.Now)
	a.Cup.SetWeather(s.Weather)
	a.Book = schoolbook.New(st.DB)
	if a.Packer, err = packer.New(st, a.Cup, s.Now, s.Log); err != nil {
		st.Close()
		return nil, err
	}
	a.Rooms = &classroom.Classroom{School: s.School, Store: st, Cup: a.Cup, Book: a.Book, Packer: a.Packer, Now: s.Now, Folders: room.English, Practice: practice{a}, Log: s.Log}
	a.Packer.Wants = a.Rooms.Wanted
	return a, nil
}

// practice makes invented students known to both stand-ins. They have no
// password: nobody can sign in as one.
type practice struct{ *App }

// Enrol implements classroom.Practice.
func (p practice) Enrol(ctx context.Context, accounts []book.Account) error {
	for _, a := range accounts {
		if err := p.Book.Add(ctx, a, ""); err != nil {
			return err
		}
		if err := p.Cup.AddPeople(ctx, a.ID); err != nil {
			return err
		}
	}
	return nil
}

// Dismiss implements classroom.Practice.
func (p practice) Dismiss(ctx context.Context, ids []string) error {
	if err := p.Cup.RemovePeople(ctx, ids...); err != nil {
		return err
	}
	return p.Book.Remove(ctx, ids)
}

func (a *App) migrate(ctx context.Context) error {
	if err := a.Store.Migrate(ctx); err != nil {
		return err
	}
	if err := cupboard.Migrate(ctx, a.Store.DB.DB); err != nil {
		return err
	}
	return schoolbook.Migrate(ctx, a.Store.DB.DB)
}

// keysFor is how long an answered key is remembered: whoever repeats a request
// does so within minutes.
const keysFor = 24 * time.Hour

// forget drops keys and sessions that are remembered for too long, now and every hour until ctx
// ends.
func (a *App) forget(ctx context.Context) {
	every := time.NewTicker(time.Hour)
	defer every.Stop()
	for {
		err := errors.Join(a.Store.ForgetKeys(ctx, a.Now().Add(-keysFor)), a.Store.ForgetSessions(ctx))
		if err != nil && ctx.Err() == nil {
			a.Log.Error("what is old isn't forgotten", "error", err)
		}
		select {
		case <-every.C:
		case <-ctx.Done():
			return
		}
	}
}

// Close ends all connections.
func (a *App) Close() { a.Store.Close() }

// Web returns the server of this program; people are those the demo lets you be.
func (a *App) Web(people []web.DemoPerson) *web.Server {
	return web.New(web.Options{Rooms: a.Rooms, Demo: people, Contract: contract.Contract, Ready: func(ctx context.Context) error { return a.Store.Pool.Ping(ctx) }, Log: a.Log})
}

// Serve answers on l and packs until ctx ends, then stops cleanly: requests
// under way are finished, runs are left to be taken up again.
func (a *App) Serve(ctx context.Context, l net.Listener, people []web.DemoPerson) error {
	if err := a.Packer.Start(ctx); err != nil {
		return err
	}
	news, quiet := context.WithCancel(context.WithoutCancel(ctx))
	defer quiet()
	server := a.Web(people)
	go server.Run(news)
	go a.forget(news)
	h := &http.Server{Handler: server, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, BaseContext: func(net.Listener) context.Context { return news }}
	failed := make(chan error, 1)
	go func() { failed <- h.Serve(l) }()
	var err error
	select {
	case err = <-failed:
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	quiet() // lets event streams end
	err = errors.Join(err, h.Shutdown(end), a.Packer.Stop(end))
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}
