package mariadb

// A session can write nothing and waits for no lock.

import (
	"context"
	"database/sql/driver"
	"time"
)

// readOnly makes every new session of a connector read-only before it is used.
type readOnly struct {
	driver.Connector
	answer time.Duration
}

// Connect opens a session and settles it.
func (r readOnly) Connect(ctx context.Context) (driver.Conn, error) {
	conn, err := r.Connector.Connect(ctx)
	if err != nil {
		return nil, err
	}
	for _, q := range sessionSettings(r.answer) {
		if _, err := conn.(driver.ExecerContext).ExecContext(ctx, q, nil); err != nil {
			conn.Close()
			return nil, err
		}
	}
	return conn, nil
}
