package engine

import (
	"net"
	"sync"
	"time"
)

// Patience is how long a server may take over one answer where the target does not say.
const Patience = 5 * time.Minute

// ReadLimit returns how long a session waits for the next bytes: a little longer than the server itself
// lets a statement run, so that the server's own message comes first.
func (t Target) ReadLimit() time.Duration {
	limit := t.AnswerLimit()
	return limit + min(limit, 10*time.Second)
}

// AnswerLimit returns how long a statement may run.
func (t Target) AnswerLimit() time.Duration {
	if t.Patience > 0 {
		return t.Patience
	}
	return Patience
}

// Impatient returns a connection whose reads fail with a timeout when an answer is not there that long after it was
// asked for, so that a server that hangs half-way, or lets bytes trickle, holds nobody up.
func Impatient(conn net.Conn, limit time.Duration) net.Conn {
	return &impatientConn{Conn: conn, limit: limit}
}

type impatientConn struct {
	net.Conn
	limit time.Duration

	lock  sync.Mutex
	held  bool      // somebody else has set a deadline, which comes first
	asked time.Time // when something was sent last
}

func (c *impatientConn) Write(b []byte) (int, error) {
	c.lock.Lock()
	c.asked = time.Now()
	c.lock.Unlock()
	return c.Conn.Write(b)
}

func (c *impatientConn) Read(b []byte) (int, error) {
	c.lock.Lock()
	if !c.held {
		if c.asked.IsZero() { // the server speaks first
			c.asked = time.Now()
		}
		if err := c.Conn.SetReadDeadline(c.asked.Add(c.limit)); err != nil {
			c.lock.Unlock()
			return 0, err
		}
	}
	c.lock.Unlock()
	return c.Conn.Read(b)
}

func (c *impatientConn) SetDeadline(t time.Time) error {
	c.lock.Lock()
	defer c.lock.Unlock()
	c.held = !t.IsZero()
	return c.Conn.SetDeadline(t)
}

func (c *impatientConn) SetReadDeadline(t time.Time) error {
	c.lock.Lock()
	defer c.lock.Unlock()
	c.held = !t.IsZero()
	return c.Conn.SetReadDeadline(t)
}
