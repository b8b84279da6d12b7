package pg

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"
	"syscall"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"
)

// Away reports that an error is the database's being out of reach, or on its way
// down or up.
func Away(err error) bool {
	var connect *pgconn.ConnectError
	var network *net.OpError
	var pg *pgconn.PgError
	switch {
	case err == nil, errors.Is(err, context.Canceled):
		return false
	case errors.As(err, &pg):
		return pgerrcode.IsOperatorIntervention(pg.Code) || pgerrcode.IsConnectionException(pg.Code) || pg.Code == pgerrcode.TooManyConnections
	case errors.As(err, &connect), errors.Is(err, driver.ErrBadConn), errors.Is(err, sql.ErrConnDone),
		errors.Is(err, syscall.ECONNREFUSED), errors.Is(err, syscall.ECONNRESET), errors.Is(err, syscall.EPIPE),
		errors.Is(err, io.ErrUnexpectedEOF):
		return true
	case errors.As(err, &network):
		return true
	}
	return strings.HasSuffix(err.Error(), "conn closed") // pgx has no name for it
}

// DiskFull reports that there was no room to write, or that nothing may be written.
func DiskFull(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return pg.Code == pgerrcode.DiskFull || pg.Code == pgerrcode.ReadOnlySQLTransaction || pg.Code == pgerrcode.IOError
	}
	return errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EROFS) || errors.Is(err, syscall.EDQUOT)
}
