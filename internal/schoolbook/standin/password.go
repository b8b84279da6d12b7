package standin

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// The parameters are the second recommended option of RFC 9106, section 4:
// Argon2id, 3 passes, 64 MiB, 4 lanes, 128-bit salt, 256-bit tag.
const (
	passes = 3
	memory = 64 << 10 // KiB
	lanes  = 4
)

// decoy is checked against where there is no such account.
var decoy = fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", memory, passes, lanes, strings.Repeat("A", 22), strings.Repeat("A", 43))

// Hash makes the hash of a password, in the usual written form.
func Hash(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	tag := argon2.IDKey([]byte(password), salt, passes, memory, lanes, 32)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes,
		b64.EncodeToString(salt), b64.EncodeToString(tag)), nil
}

// sum is a code as it is kept.
func sum(code string) string {
	h := sha256.Sum256([]byte(code))
	return hex.EncodeToString(h[:])
}

// verify reports whether password has the hash. A hash that can't be read fits
// no password.
func verify(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var m, t uint32
	var p uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &m, &t, &p); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	tag, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil || len(tag) == 0 {
		return false
	}
	return subtle.ConstantTimeCompare(tag, argon2.IDKey([]byte(password), salt, t, m, p, uint32(len(tag)))) == 1
}
