package signing

import (
	"context"
	"crypto/sha256"
	"time"
)

// KnowsDevice reports whether an account signed in from a device since.
func (s Signing) KnowsDevice(ctx context.Context, device, account string, since time.Time) (bool, error) {
	sum := sha256.Sum256([]byte(device))
	var known bool
	return known, s.Get(ctx, &known, `select exists (select 1 from devices
		where device = $1 and account = $2 and at > $3)`, sum[:], account, since)
}

// KeepDevice remembers that an account signed in from a device, of which only a
// digest is kept.
func (s Signing) KeepDevice(ctx context.Context, device, account string, at time.Time) error {
	sum := sha256.Sum256([]byte(device))
	return s.Exec(ctx, `insert into devices (device, account, at) values ($1, $2, $3)
		on conflict (device, account) do update set at = excluded.at`, sum[:], account, at)
}

// ForgetDevices forgets those from which nobody signed in since.
func (s Signing) ForgetDevices(ctx context.Context, since time.Time) error {
	return s.Exec(ctx, `delete from devices where at <= $1`, since)
}
