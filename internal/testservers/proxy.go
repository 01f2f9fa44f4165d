package testservers

// A connection with faults: slow, cut, or altered.

import (
	"bufio"
	"encoding/binary"
	"io"
	"net"
	"sync"
	"testing"
	"time"
)

// Framing says how long the messages of a protocol are, from a server to a client.
type Framing struct {
	Header int                     // bytes that tell the length
	Length func(header []byte) int // of the whole message
}

// The framings of the protocols.
var (
	// PostgresMessages are a letter and a length that counts itself.
	PostgresMessages = Framing{5, func(h []byte) int { return 1 + int(binary.BigEndian.Uint32(h[1:])) }}
	// MariaDBMessages are a length of three bytes and a number.
	MariaDBMessages = Framing{4, func(h []byte) int { return 4 + (int(h[0]) | int(h[1])<<8 | int(h[2])<<16) }}
	// TDSMessages are packets of SQL Server's protocol.
	TDSMessages = Framing{8, func(h []byte) int { return int(binary.BigEndian.Uint16(h[2:])) }}
)

// FramingOf returns the framing of an engine's protocol.
func FramingOf(engine string) Framing {
	switch engine {
	case "postgres":
		return PostgresMessages
	case "mariadb":
		return MariaDBMessages
	}
	return TDSMessages
}

// Fault is what a proxy does to the answers of a server once After messages have passed, over all
// connections together.
type Fault struct {
	After int64
	Do    string // "drop", "hang", "nonsense", "trickle", "alter", or "" for a proxy that only counts
	Then  func() // called once at that point, before the message goes on; may be nil
	// Alter changes a message, header included, for "alter". Only the message at the point is changed.
	Alter func(message []byte) []byte
}

// Proxy stands between the program and a server and spoils the answers, from one message to the next.
type Proxy struct {
	Addr string

	fault   Fault
	framing Framing
	target  string
	lock    sync.Mutex
	passed  int64
	once    sync.Once
	reached chan struct{}
	done    chan struct{}
}

// Faulty starts a proxy in front of an address; it ends with the test.
func Faulty(t testing.TB, target string, framing Framing, fault Fault) *Proxy {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	p := &Proxy{Addr: l.Addr().String(), fault: fault, framing: framing, target: target, reached: make(chan struct{}), done: make(chan struct{})}
	t.Cleanup(func() { close(p.done); l.Close() })
	go func() {
		for {
			conn, err := l.Accept()
			if err != nil {
				return
			}
			go p.serve(conn)
		}
	}()
	return p
}

// Passed returns how many messages have passed.
func (p *Proxy) Passed() int64 {
	p.lock.Lock()
	defer p.lock.Unlock()
	return p.passed
}

// Reached is closed when the fault's point is reached.
func (p *Proxy) Reached() <-chan struct{} { return p.reached }

// next counts a message and returns its number, from 0.
func (p *Proxy) next() int64 {
	p.lock.Lock()
	defer p.lock.Unlock()
	p.passed++
	return p.passed - 1
}

// message reads one message, header included.
func (p *Proxy) message(r *bufio.Reader) ([]byte, error) {
	header, err := r.Peek(p.framing.Header)
	if err != nil {
		return nil, err
	}
	message := make([]byte, max(p.framing.Header, p.framing.Length(header)))
	_, err = io.ReadFull(r, message)
	return message, err
}

func (p *Proxy) serve(client net.Conn) {
	defer client.Close()
	server, err := net.Dial("tcp", p.target)
	if err != nil {
		return
	}
	defer server.Close()
	go func() {
		_, _ = io.Copy(server, client)
		server.Close()
	}()
	r := bufio.NewReaderSize(server, 1<<16)
	w := bufio.NewWriterSize(client, 1<<16)
	for {
		message, err := p.message(r)
		if err != nil {
			return
		}
		if n := p.next(); n >= p.fault.After {
			p.once.Do(func() {
				close(p.reached)
				if p.fault.Then != nil {
					p.fault.Then()
				}
			})
			if p.fault.Do != "" {
				if err := w.Flush(); err != nil || !p.spoil(client, message, n) {
					return
				}
				continue
			}
		}
		if _, err := w.Write(message); err != nil {
			return
		}
		if r.Buffered() == 0 {
			if err := w.Flush(); err != nil {
				return
			}
		}
	}
}

// spoil does what the fault says to a message, and reports whether the conversation goes on.
func (p *Proxy) spoil(client net.Conn, message []byte, n int64) bool {
	switch p.fault.Do {
	case "drop":
		return false
	case "hang":
		<-p.done
		return false
	case "nonsense":
		for i := range message {
			message[i] = byte(i*167 + 89)
		}
	case "alter":
		if n == p.fault.After {
			message = p.fault.Alter(message)
		}
	case "trickle": // each byte comes, but none comes soon
		for i := range message {
			if _, err := client.Write(message[i : i+1]); err != nil {
				return false
			}
			select {
			case <-p.done:
				return false
			case <-time.After(300 * time.Millisecond):
			}
		}
		return true
	}
	_, err := client.Write(message)
	return err == nil
}
