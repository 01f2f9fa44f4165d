package engine

// A server that does not answer, or answers a byte at a time, is given up after a time; what is left of it counts from the
// last progress.

import (
	"fmt"
	"net"
	"sync"
	"sync/atomic"
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

// Budget is how many bytes the sessions of one server may still send, so that an answer that does not end costs one
// reading rather than all memory.
type Budget struct{ left atomic.Int64 }

// mostBytes is what one reading may take: some fifty times what a database of ten thousand tables needs.
const mostBytes = 2 << 30

// NewBudget returns a full budget.
func NewBudget() *Budget {
	b := &Budget{}
	b.Refill()
	return b
}

// Refill is called where a reading begins.
func (b *Budget) Refill() { b.left.Store(mostBytes) }

// ErrEndless says that a server has sent more than a reading may take.
var ErrEndless = fmt.Errorf("the server sent more than %d MiB for one reading; it was given up", mostBytes>>20)

// Impatient returns a connection whose reads fail with a timeout when an answer is not there that long after it was
// asked for, so that a server that hangs half-way, or lets bytes trickle, holds nobody up; and with ErrEndless once the
// budget is spent.
func Impatient(conn net.Conn, limit time.Duration, budget *Budget) net.Conn {
	return &impatientConn{Conn: conn, limit: limit, budget: budget}
}

type impatientConn struct {
	net.Conn
	limit  time.Duration
	budget *Budget

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
	n, err := c.Conn.Read(b)
	if c.budget.left.Add(-int64(n)) < 0 {
		return 0, ErrEndless
	}
	return n, err
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
