// Package servicetest is a small service to sign in with, for tests.
package servicetest

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/go-jose/go-jose/v4"
	"github.com/go-jose/go-jose/v4/jwt"
)

// A Provider is a small service: what it says of itself, its key, and the token it gives for
// any code whose verifier fits.
type Provider struct {
	*httptest.Server
	Key, Other *ecdsa.PrivateKey
	Signed     *ecdsa.PrivateKey // with which it signs
	Claims     map[string]any
	Challenge  string // of the verifier that fits
}

// New starts one, which ends with the test.
func New(t testing.TB) *Provider {
	t.Helper()
	p := &Provider{}
	for _, k := range []**ecdsa.PrivateKey{&p.Key, &p.Other} {
		var err error
		if *k, err = ecdsa.GenerateKey(elliptic.P256(), rand.Reader); err != nil {
			t.Fatal(err)
		}
	}
	p.Signed = p.Key
	answer := func(w http.ResponseWriter, v any) {
		w.Header().Set("Content-Type", "application/json")
		if err := json.NewEncoder(w).Encode(v); err != nil {
			t.Error(err)
		}
	}
	m := http.NewServeMux()
	m.HandleFunc("/.well-known/openid-configuration", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, map[string]any{"issuer": p.URL, "authorization_endpoint": p.URL + "/auth",
			"token_endpoint": p.URL + "/token", "jwks_uri": p.URL + "/keys", "id_token_signing_alg_values_supported": []string{"ES256"}})
	})
	m.HandleFunc("/keys", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{Key: p.Key.Public(), KeyID: "1", Algorithm: "ES256", Use: "sig"}}})
	})
	m.HandleFunc("/token", func(w http.ResponseWriter, r *http.Request) {
		sum := sha256.Sum256([]byte(r.FormValue("code_verifier")))
		if r.FormValue("code") != "good" || base64.RawURLEncoding.EncodeToString(sum[:]) != p.Challenge {
			http.Error(w, `{"error":"invalid_grant"}`, http.StatusBadRequest)
			return
		}
		signer, err := jose.NewSigner(jose.SigningKey{Algorithm: jose.ES256, Key: jose.JSONWebKey{Key: p.Signed, KeyID: "1"}}, nil)
		if err != nil {
			t.Error(err)
			return
		}
		token, err := jwt.Signed(signer).Claims(p.Claims).Serialize()
		if err != nil {
			t.Error(err)
			return
		}
		answer(w, map[string]any{"access_token": "x", "token_type": "Bearer", "id_token": token})
	})
	p.Server = httptest.NewServer(m)
	t.Cleanup(p.Close)
	return p
}

// Sent takes what somebody is sent to it with, and vouches for an address: what they come back
// with.
func (p *Provider) Sent(t testing.TB, at, address string) url.Values {
	t.Helper()
	u, err := url.Parse(at)
	if err != nil || !strings.HasPrefix(at, p.URL+"/auth?") {
		t.Fatalf("sent to %s: %v", at, err)
	}
	p.Challenge = u.Query().Get("code_challenge")
	p.Claims = map[string]any{"iss": p.URL, "aud": u.Query().Get("client_id"), "sub": "1",
		"nonce": u.Query().Get("nonce"), "exp": time.Now().Add(time.Minute).Unix(), "iat": time.Now().Unix(),
		"email": address, "email_verified": true, "given_name": "Ana", "family_name": "Reis"}
	return url.Values{"code": {"good"}, "state": {u.Query().Get("state")}}
}
