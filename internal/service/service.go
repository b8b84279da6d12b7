// Package service signs people in with the school's own service, by OpenID Connect Core 1.0
// with the authorization code flow and PKCE (RFC 7636).
package service

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"io"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"jollysatchel/internal/core/school"
)

// Settings say which service it is, and who we are to it.
type Settings struct {
	Issuer   string
	Client   string
	Secret   string
	Redirect string // where people come back to
}

// A Started is what is kept with a browser while somebody is away signing in.
type Started struct{ State, Nonce, Verifier string }

// A Person is who the service says somebody is. The address is in lower case.
type Person struct{ Address, Given, Family string }

// A Refused says why somebody isn't signed in.
type Refused struct {
	Code string // of the catalogue
	Err  error  // what the service said; for the log
}

func (r *Refused) Error() string {
	if r.Err == nil {
		return "service: " + r.Code
	}
	return "service: " + r.Code + ": " + r.Err.Error()
}

// Unwrap returns what the service said.
func (r *Refused) Unwrap() error { return r.Err }

// What a service is given.
const (
	patience  = 10 * time.Second // for each answer
	mostBytes = 1 << 20          // of an answer
	known     = time.Hour        // how long what a service says of itself is believed
)

// A Service knows what services say of themselves.
type Service struct {
	mu     sync.Mutex
	issuer string
	is     *oidc.Provider
	at     time.Time
}

// client reads no more than a service has to say.
var client = &http.Client{Timeout: patience, Transport: limited{http.DefaultTransport}}

type limited struct{ http.RoundTripper }

// RoundTrip implements http.RoundTripper.
func (l limited) RoundTrip(r *http.Request) (*http.Response, error) {
	res, err := l.RoundTripper.RoundTrip(r)
	if err == nil {
		res.Body = struct {
			io.Reader
			io.Closer
		}{io.LimitReader(res.Body, mostBytes), res.Body}
	}
	return res, err
}

// provider is what a service says of itself, asked for at most once an hour.
func (s *Service) provider(issuer string) (*oidc.Provider, error) {
	s.mu.Lock()
	is, fresh := s.is, s.issuer == issuer && time.Since(s.at) < known
	s.mu.Unlock()
	if is != nil && fresh {
		return is, nil
	}
	if !school.IssuerAddress(issuer) {
		return nil, &Refused{Code: "service-away", Err: errors.New("no address of a service")}
	}
	is, err := oidc.NewProvider(oidc.ClientContext(context.Background(), client), issuer) // its keys are asked for later, too
	if err != nil {
		return nil, &Refused{Code: "service-away", Err: err}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.issuer, s.is, s.at = issuer, is, time.Now()
	return is, nil
}

func (set Settings) config(is *oidc.Provider) oauth2.Config {
	return oauth2.Config{ClientID: set.Client, ClientSecret: set.Secret, Endpoint: is.Endpoint(),
		RedirectURL: set.Redirect, Scopes: []string{oidc.ScopeOpenID, "email", "profile"}}
}

// Begin returns where somebody goes to sign in, and what is kept until they come back.
func (s *Service) Begin(set Settings) (string, Started, error) {
	is, err := s.provider(set.Issuer)
	if err != nil {
		return "", Started{}, err
	}
	kept := Started{State: rand.Text(), Nonce: rand.Text(), Verifier: oauth2.GenerateVerifier()}
	config := set.config(is)
	return config.AuthCodeURL(kept.State, oidc.Nonce(kept.Nonce), oauth2.S256ChallengeOption(kept.Verifier)), kept, nil
}

// Finish says who came back, with what is behind the address they came to; whatever
// isn't as it should be is a *Refused.
func (s *Service) Finish(ctx context.Context, set Settings, kept Started, back url.Values) (Person, error) {
	if kept.State == "" || subtle.ConstantTimeCompare([]byte(kept.State), []byte(back.Get("state"))) != 1 {
		return Person{}, &Refused{Code: "service-state"}
	}
	if back.Get("error") != "" {
		return Person{}, &Refused{Code: "service-denied", Err: errors.New(back.Get("error"))}
	}
	is, err := s.provider(set.Issuer)
	if err != nil {
		return Person{}, err
	}
	ctx = oidc.ClientContext(ctx, client)
	config := set.config(is)
	tokens, err := config.Exchange(ctx, back.Get("code"), oauth2.VerifierOption(kept.Verifier))
	if err != nil {
		return Person{}, &Refused{Code: "service-away", Err: err}
	}
	raw, _ := tokens.Extra("id_token").(string)
	id, err := is.VerifierContext(ctx, &oidc.Config{ClientID: set.Client}).Verify(ctx, raw)
	if err != nil {
		return Person{}, &Refused{Code: why(err), Err: err}
	}
	if subtle.ConstantTimeCompare([]byte(id.Nonce), []byte(kept.Nonce)) != 1 {
		return Person{}, &Refused{Code: "service-nonce"}
	}
	if len(id.Audience) != 1 { // we trust no other party: OpenID Connect Core 1.0, 3.1.3.7, rule 3
		return Person{}, &Refused{Code: "service-audience"}
	}
	var claims struct {
		Party    string `json:"azp"`
		Email    string `json:"email"`
		Verified *bool  `json:"email_verified"`
		Given    string `json:"given_name"`
		Family   string `json:"family_name"`
	}
	if err := id.Claims(&claims); err != nil {
		return Person{}, &Refused{Code: "service-token", Err: err}
	}
	if claims.Party != "" && claims.Party != set.Client { // the same, rule 5
		return Person{}, &Refused{Code: "service-audience"}
	}
	if claims.Email == "" || claims.Verified == nil || !*claims.Verified { // one that nobody looked at is anybody's
		return Person{}, &Refused{Code: "service-address"}
	}
	return Person{Address: claims.Email, Given: claims.Given, Family: claims.Family}, nil
}

// why is the code for a token that isn't as it should be. The library has a type for one of
// its errors alone.
func why(err error) string {
	var expired *oidc.TokenExpiredError
	if errors.As(err, &expired) {
		return "service-expired"
	}
	for part, code := range map[string]string{"expected audience": "service-audience",
		"different provider": "service-issuer", "failed to verify signature": "service-key", "before the nbf": "service-expired"} {
		if strings.Contains(err.Error(), part) {
			return code
		}
	}
	return "service-token"
}
