package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/netip"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
	"syscall"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/demo"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/pgserver"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web"
)

func env(name, usual string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return usual
}

// database returns the address in DATABASE_URL, else that of the private
// server, which stop ends; for an errand beside a program that serves, that one's.
func database(ctx context.Context, beside bool) (url string, stop func(), err error) {
	if url := os.Getenv("DATABASE_URL"); url != "" {
		return url, func() {}, nil
	}
	server, err := pgserver.Start(ctx, pgDir())
	var used *pgserver.InUse
	if beside && errors.As(err, &used) { // a program serves on it
		if server, err = pgserver.Join(pgDir()); err != nil {
			return "", nil, err
		}
		return server.URL("jollysatchel"), func() {}, nil
	}
	if err != nil {
		return "", nil, err
	}
	watching, quiet := context.WithCancel(ctx)
	go server.Watch(watching, slog.Default())
	stop = func() {
		quiet()
		if err := server.Stop(); err != nil {
			slog.Error("stopping the database", "error", err)
		}
	}
	if url, err = server.Ensure(ctx, "jollysatchel"); err != nil {
		stop()
		return "", nil, err
	}
	fmt.Fprintf(os.Stderr, "The data is in %s\n", server.Dir())
	return url, stop, nil
}

func pgDir() string { return filepath.Join(env("JOLLY_DATA", "./var"), "pg") }

func settings(url string, now clock.Clock) (app.Settings, error) {
	s := app.Settings{Database: url, Now: now, Log: slog.New(slog.NewTextHandler(os.Stderr, nil))}
	s.School = seam.School{Name: os.Getenv("JOLLY_SCHOOL"), Domain: os.Getenv("JOLLY_DOMAIN"),
		Language: os.Getenv("JOLLY_LANGUAGE"), Site: strings.TrimRight(os.Getenv("JOLLY_URL"), "/")}
	var err error
	if zone := os.Getenv("JOLLY_ZONE"); zone != "" {
		if s.School.Zone, err = time.LoadLocation(zone); err != nil {
			return s, fmt.Errorf("JOLLY_ZONE: %w", err)
		}
	}
	if s.School.Words, err = ownWords(os.Getenv("JOLLY_WORDS")); err != nil {
		return s, err
	}
	if s.School.Quota, err = megabytes("JOLLY_SATCHEL_MB"); err != nil {
		return s, err
	}
	if s.School.Disk, err = megabytes("JOLLY_SCHOOL_MB"); err != nil {
		return s, err
	}
	s.Here = here()
	if s.PostPassword, err = secret("JOLLY_POST_PASSWORD"); err != nil {
		return s, err
	}
	if s.ServiceSecret, err = secret("JOLLY_SIGNIN_SECRET"); err != nil {
		return s, err
	}
	s.Hosts = list(os.Getenv("JOLLY_HOSTS"))
	if s.Proxies, err = networks(os.Getenv("JOLLY_PROXIES")); err != nil {
		return s, err
	}
	if s.Weather, err = standin.ParseWeather(os.Getenv("JOLLY_WEATHER")); err != nil {
		return s, fmt.Errorf("JOLLY_WEATHER: %w", err)
	}
	return s, nil
}

// here is where the program answers on this machine.
func here() string {
	return "http://" + net.JoinHostPort(env("JOLLY_HOST", "127.0.0.1"), env("PORT", "8080"))
}

// secret is what the environment says under a name or, under the name with _FILE, what
// is in a file that nobody but its owner may read.
func secret(name string) (string, error) {
	file := os.Getenv(name + "_FILE")
	if file == "" {
		return os.Getenv(name), nil
	}
	is, err := os.Stat(file)
	if err != nil {
		return "", fmt.Errorf("%s_FILE: %w", name, err)
	}
	if is.Mode().Perm()&0o077 != 0 {
		return "", fmt.Errorf("%s_FILE: others can read %s; run chmod 600 on it", name, file)
	}
	b, err := os.ReadFile(file)
	return strings.TrimSpace(string(b)), err
}

// megabytes reads how large something may be from a variable; 0 where nothing is said.
func megabytes(name string) (int64, error) {
	text := os.Getenv(name)
	if text == "" {
		return 0, nil
	}
	n, err := strconv.ParseInt(text, 10, 32)
	if err != nil || n < 1 {
		return 0, fmt.Errorf("%s: %q is not a number of megabytes", name, text)
	}
	return n * 1_000_000, nil
}

func list(text string) []string {
	var out []string
	for _, v := range strings.Split(text, ",") {
		if v = strings.TrimSpace(v); v != "" {
			out = append(out, v)
		}
	}
	return out
}

// networks reads addresses and networks, "10.0.0.7, 10.1.0.0/16".
func networks(text string) ([]netip.Prefix, error) {
	var out []netip.Prefix
	for _, v := range list(text) {
		p, err := netip.ParsePrefix(v)
		if err != nil {
			a, e := netip.ParseAddr(v)
			if e != nil {
				return nil, fmt.Errorf("JOLLY_PROXIES: %q is neither an address nor a network", v)
			}
			p = netip.PrefixFrom(a, a.BitLen())
		}
		out = append(out, p)
	}
	return out, nil
}

// ownWords reads "class=course,classes=courses".
func ownWords(list string) (map[string]string, error) {
	m := map[string]string{}
	for _, pair := range strings.Split(list, ",") {
		if strings.TrimSpace(pair) == "" {
			continue
		}
		name, word, ok := strings.Cut(pair, "=")
		name, word = strings.TrimSpace(name), strings.TrimSpace(word)
		switch strings.TrimSuffix(strings.ToLower(name), "es") {
		case "class", "period", "handout", "handouts":
		default:
			ok = false
		}
		if !ok || word == "" {
			return nil, fmt.Errorf("JOLLY_WORDS: %q is not name=word", pair)
		}
		m[name] = word
	}
	return m, nil
}

// tempPrefix begins the name of a program's folder for temporary files, before the
// number of its process.
const tempPrefix = "jollysatchel-run-"

// tidyTemp gives this program a folder of its own for temporary files, which done
// clears away, and clears away what programs left that were killed.
func tidyTemp() (done func(), err error) {
	left, err := filepath.Glob(filepath.Join(os.TempDir(), tempPrefix+"*"))
	if err != nil {
		return nil, err
	}
	for _, dir := range left {
		number, _, _ := strings.Cut(strings.TrimPrefix(filepath.Base(dir), tempPrefix), "-")
		pid, err := strconv.Atoi(number)
		if err != nil || pid == os.Getpid() || syscall.Kill(pid, 0) != syscall.ESRCH {
			continue
		}
		if err := os.RemoveAll(dir); err != nil {
			slog.Warn("what a program left can't be cleared away", "error", err)
		}
	}
	dir, err := os.MkdirTemp("", tempPrefix+strconv.Itoa(os.Getpid())+"-*")
	if err != nil {
		return nil, fmt.Errorf("no place for temporary files: %w", err)
	}
	was := os.Getenv("TMPDIR")
	if err := os.Setenv("TMPDIR", dir); err != nil {
		return nil, err
	}
	return func() {
		os.Setenv("TMPDIR", was)
		os.RemoveAll(dir)
	}, nil
}

// runServe serves the application until it is told to stop.
func runServe(args []string, withDemo bool) error {
	flags := flag.NewFlagSet("serve", flag.ExitOnError)
	at := flags.String("at", "", "let the demo begin at this moment (RFC 3339), for pictures that stay the same")
	if err := flags.Parse(args); err != nil {
		return err
	}
	tidied, err := tidyTemp()
	if err != nil {
		return err
	}
	defer tidied()
	gate.Spare()
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(1 << 30) // from there on memory is looked for more often
	}
	ctx, cancel := signal.NotifyContext(context.Background(), syscall.SIGINT, syscall.SIGTERM)
	defer cancel()
	now := clock.Clock(clock.System)
	if *at != "" {
		begin, err := time.Parse(time.RFC3339, *at)
		if err != nil {
			return err
		}
		ahead := begin.Sub(clock.System())
		now = func() time.Time { return clock.System().Add(ahead).Truncate(time.Microsecond) }
	}
	l, err := net.Listen("tcp", net.JoinHostPort(env("JOLLY_HOST", "127.0.0.1"), env("PORT", "8080")))
	if err != nil {
		return fmt.Errorf("another program has the port (PORT changes it): %w", err)
	}
	url, stop, err := database(ctx, false)
	if err != nil {
		l.Close()
		return err
	}
	defer stop()
	s, err := settings(url, now)
	if err != nil {
		return err
	}
	s.Here = "http://" + l.Addr().String()
	var people []web.DemoPerson
	s.Demo, s.ShowStandins = withDemo, withDemo || os.Getenv("JOLLY_STANDINS") == "1"
	if withDemo {
		if people, err = demo.Ensure(ctx, s); err != nil {
			return err
		}
	}
	a, err := app.Open(ctx, s)
	if err != nil {
		return err
	}
	defer a.Close()
	first, err := firstStart(ctx, a)
	if err != nil {
		return err
	}
	fmt.Printf("Jolly Satchel is at http://%s\n%s", l.Addr(), first)
	if withDemo {
		demo.Tell(os.Stdout)
	}
	return a.Serve(ctx, l, people)
}

// firstStart tells the address at which a school begins where nobody is in its office yet.
func firstStart(ctx context.Context, a *app.App) (string, error) {
	has, err := a.Cases.People.HasOffice(ctx)
	if err != nil || has {
		return "", err
	}
	secret, err := a.Cases.People.FirstKey(ctx, "")
	return fmt.Sprintf("Nobody is in the office yet. Begin at %s (this link works once, for one hour; make a new one with: jollysatchel office)\n",
		firstAddress(a, secret)), err
}

// firstAddress is where the first start is; the secret isn't sent when it is followed.
func firstAddress(a *app.App, secret string) string {
	return a.Charter.School().Site + "/begin#" + secret
}

// errand opens the program for something short; beside one that serves, if that may be.
func errand(beside bool, do func(ctx context.Context, a *app.App) error) error {
	ctx := context.Background()
	url, stop, err := database(ctx, beside)
	if err != nil {
		return err
	}
	defer stop()
	s, err := settings(url, clock.System)
	if err != nil {
		return err
	}
	a, err := app.Open(ctx, s)
	if err != nil {
		return err
	}
	defer a.Close()
	return do(ctx, a)
}

// runOffice prints the address that begins a school or, with the address of an office
// account, mends that one.
func runOffice(args []string, out io.Writer) error {
	address := ""
	if len(args) > 0 {
		address = args[0]
	}
	return errand(true, func(ctx context.Context, a *app.App) error {
		has, err := a.Cases.People.HasOffice(ctx)
		if err != nil {
			return err
		}
		if has && address == "" {
			return errors.New("there is an office already: say the address of the account to mend, jollysatchel office ADDRESS")
		}
		secret, err := a.Cases.People.FirstKey(ctx, address)
		if err != nil {
			return err
		}
		fmt.Fprintf(out, "Go to %s (this link works once, for one hour)\n", firstAddress(a, secret))
		return nil
	})
}

// runMigrate brings the database up to date and stops.
func runMigrate(args []string) error {
	if len(args) > 0 {
		return fmt.Errorf("migrate takes no arguments: %q", args[0])
	}
	return errand(false, func(context.Context, *app.App) error { return nil })
}

// runReset removes the private server's data.
func runReset(stdout io.Writer) error {
	if os.Getenv("DATABASE_URL") != "" {
		return fmt.Errorf("DATABASE_URL is set; empty that database yourself")
	}
	if err := pgserver.Remove(pgDir()); err != nil {
		return err
	}
	fmt.Fprintln(stdout, "The demo's data is deleted. The next make demo starts over.")
	return nil
}
