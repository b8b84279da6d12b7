// Package app puts the parts together: one program from its settings.
package app

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"time"
	_ "time/tzdata" // zone rules ship with the program

	"github.com/alexedwards/scs/pgxstore"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/courier"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/jobs"
	"jollysatchel/internal/observer"
	"jollysatchel/internal/packer"
	"jollysatchel/internal/post/postroom"
	schoolbook "jollysatchel/internal/schoolbook/standin"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web"
)

// Settings of a program.
type Settings struct {
	Database string
	School   seam.School // what is fixed of it; the office says the rest
	Weather  standin.Weather
	Now      clock.Clock
	Log      *slog.Logger
	Hosts    []string       // names the server is called by, beside this machine's
	Proxies  []netip.Prefix // whose word on where a request comes from is taken
	Pace     float64        // requests a second of an account; 0: as many as people make
	Demo     bool           // the demo's passwords open
	// ShowStandins lets the office see the stand-ins, and change their weather.
	ShowStandins bool
	// Here is where its pages are as long as nobody says where; PostPassword opens the
	// school's mail server.
	Here, PostPassword string
	ServiceSecret      string // opens the school's own service to sign in with
}

// An App is the program with everything in place and nothing running yet.
type App struct {
	Settings
	Store    *store.Store
	Cup      *standin.Standin
	Book     *schoolbook.Standin
	Packer   *packer.Packer
	Observer *observer.Observer
	Cases    *usecase.Cases
	Charter  *seam.Charter
	Courier  *courier.Courier
	Postroom *postroom.Postroom

	jobs *jobs.Queue
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
	if a.Charter, err = seam.NewCharter(ctx, st, s.School, s.Here); err != nil {
		st.Close()
		return nil, fmt.Errorf("reading what the school is: %w", err)
	}
	a.Cup = standin.New(st.DB, s.Now)
	if err := a.Cup.AddPeople(ctx, seam.SchoolAccount); err != nil {
		st.Close()
		return nil, fmt.Errorf("making the school's own account known: %w", err)
	}
	a.Book = schoolbook.New(st.DB)
	a.Book.Demo = s.Demo
	if a.jobs, err = jobs.New(st.Pool, s.Now); err != nil {
		st.Close()
		return nil, err
	}
	patient := cupboard.Patient{Cupboard: a.Cup}
	a.Observer = observer.New(st, patient, func() *time.Location { return a.Charter.School().Zone }, s.Now, s.Log)
	a.Packer = packer.New(st, a.Cup, a.Observer, a.jobs, s.Now, s.Log)
	a.Postroom = postroom.New(st.DB, s.Now)
	a.Postroom.Unknown = a.noMailbox
	if err := a.weather(ctx); err != nil {
		st.Close()
		return nil, fmt.Errorf("reading what the stand-ins suffer: %w", err)
	}
	a.Courier = courier.New(st, a.jobs, a.terms, s.Now, s.Log)
	send := &sending{App: a}
	jobs.Register(a.jobs, send)
	a.Cases = usecase.New(usecase.Parts{
		Sending: send, Courier: a.Courier,
		Charter: a.Charter, Store: st, Cup: patient, Observer: a.Observer, Book: a.Book, Packer: a.Packer,
		Directory: directory{a.Book, a.Cup}, Practice: practice{a}, Now: s.Now, Folders: room.English, Log: s.Log,
	})
	a.Packer.Wants, a.Packer.Ended = a.Cases.Packing.Wanted, a.Cases.Packing.RunEnded
	return a, nil
}

// directory is the stand-in school book, whose accounts the stand-in cupboard is told of.
type directory struct {
	*schoolbook.Standin
	cup *standin.Standin
}

// Known implements seam.Directory.
func (d directory) Known(ctx context.Context, ids ...string) error {
	return d.cup.AddPeople(ctx, ids...)
}

// practice makes invented students known to both stand-ins. They have no
// password: nobody can sign in as one.
type practice struct{ *App }

// Enrol implements practice.Accounts.
func (p practice) Enrol(ctx context.Context, accounts []accounts.Account) error {
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

// Dismiss implements practice.Accounts.
func (p practice) Dismiss(ctx context.Context, ids []string) error {
	if err := p.Cup.RemovePeople(ctx, ids...); err != nil {
		return err
	}
	return p.Book.Remove(ctx, ids)
}

// migrate brings the database up to date, one program at a time.
func (a *App) migrate(ctx context.Context) error {
	return a.Store.Alone(ctx, "migrate", func() error {
		if err := a.Store.Migrate(ctx); err != nil {
			return err
		}
		if err := standin.Migrate(ctx, a.Store.DB.DB); err != nil {
			return err
		}
		return errors.Join(schoolbook.Migrate(ctx, a.Store.DB.DB), postroom.Migrate(ctx, a.Store.DB.DB))
	})
}

// keysFor is how long an answered key is remembered: anyone who repeats a request
// does so within minutes.
const keysFor = 24 * time.Hour

// forget drops keys and sessions that are remembered for too long, now and every hour until ctx
// ends.
func (a *App) forget(ctx context.Context) {
	every := time.NewTicker(time.Hour)
	defer every.Stop()
	for {
		err := errors.Join(a.Store.ForgetKeys(ctx, a.Now().Add(-keysFor)), a.Store.ForgetSessions(ctx),
			a.Store.ForgetDevices(ctx, a.Now().Add(-people.DeviceFor)), a.Cup.Forget(ctx), a.Postroom.Forget(ctx))
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

// again does something now and every so often until ctx ends.
func (a *App) again(ctx context.Context, every time.Duration, what string, do func(context.Context) error) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	for {
		if err := do(ctx); err != nil && ctx.Err() == nil {
			a.Log.Warn(what, "error", err)
		}
		select {
		case <-tick.C:
		case <-ctx.Done():
			return
		}
	}
}

// Close ends all connections.
func (a *App) Close() {
	if err := a.Postroom.Close(); err != nil {
		a.Log.Warn("the postroom isn't closed", "error", err)
	}
	a.Store.Close()
}

// Start begins the work nobody waits for.
func (a *App) Start(ctx context.Context) error {
	if err := a.jobs.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	a.Packer.Start(ctx)
	return nil
}

// Stop ends it; what is under way is finished or left to be taken up again.
func (a *App) Stop(ctx context.Context) error {
	a.Packer.Stop()
	return a.jobs.Stop(ctx)
}

// Web returns the server of this program; people are those the demo lets you be.
func (a *App) Web(people []web.DemoPerson) *web.Server {
	var shown web.Standins
	if a.ShowStandins {
		shown = standins{a.Cup}
	}
	return web.New(web.Options{
		Cases: a.Cases, Standins: shown, Postroom: mailroom{a.Postroom, a.Cup}, PostReady: a.PostPassword != "",
		ServiceSecret: a.ServiceSecret, TryPost: a.tryPost, School: a.Charter.School, Now: a.Now, Demo: people,
		Sessions: pgxstore.NewWithCleanupInterval(a.Store.Pool, 0), Listen: a.Store.Listen, Hosts: a.Hosts, Proxies: a.Proxies, Pace: a.Pace,
		Ready: func(ctx context.Context) error { return a.Store.Pool.Ping(ctx) }, Log: a.Log,
	})
}

// mostConnections are open at once; beyond, who waits longest of the address with most is closed.
const mostConnections = 4000

// Serve answers on l and packs until ctx ends, then stops cleanly: requests
// under way are finished, runs are left to be taken up again.
func (a *App) Serve(ctx context.Context, l net.Listener, people []web.DemoPerson) error {
	if err := a.Start(ctx); err != nil {
		return err
	}
	news, quiet := context.WithCancel(context.WithoutCancel(ctx))
	defer quiet()
	server := a.Web(people)
	go server.Run(news)
	go a.forget(news)
	go a.again(news, time.Minute, "classes aren't closed to who left", a.Cases.Leaving.RevokeAll)
	go a.again(news, 5*time.Second, "what the school is can't be read", a.Charter.Read)
	go a.again(news, 5*time.Second, "classes aren't kept in step", a.Cases.Packing.KeepInStep)
	go a.again(news, 2*time.Second, "what waits for an address isn't given", a.Cases.Packing.GiveWaiting)
	go a.again(news, 20*time.Second, "classes aren't looked at", a.Cases.Registers.LookAround)
	go a.again(news, 2*time.Second, "the cupboard isn't told what is closed", a.Cases.Packing.KeepMarks)
	go a.again(news, 5*time.Second, "copies aren't kept at their time", a.Cases.Things.ShowDue)
	go a.again(news, time.Minute, "doors aren't checked", a.Cases.Doors.Nightly)
	go a.again(news, 2*time.Second, "messages aren't sent", a.Courier.Carry)
	looking := make(chan struct{})
	go func() { defer close(looking); a.Observer.Run(news) }()
	h := &http.Server{
		Handler: server, ConnState: newCrowd(mostConnections).state, ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 32 << 10,
		BaseContext: func(net.Listener) context.Context {
			return context.WithoutCancel(ctx)
		}, ErrorLog: slog.NewLogLogger(a.Log.Handler(), slog.LevelDebug),
	}
	failed := make(chan error, 1)
	go func() { failed <- h.Serve(l) }()
	var err error
	select {
	case err = <-failed:
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	quiet() // lets event streams end; all other requests are finished
	err = errors.Join(err, h.Shutdown(end), a.Stop(end))
	<-looking
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}
