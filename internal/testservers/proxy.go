package testservers

import (
	"io"
	"net"
	"sync"
	"testing"
)

// Fault is what a proxy does to the answers of a server once After bytes have passed, over all
// connections together.
type Fault struct {
	After int64
	Do    string // "drop", "hang", "nonsense", or "" for a proxy that only counts
	Then  func() // called once at that point, before the bytes go on; may be nil
}

// Proxy stands between the program and a server and spoils the answers.
type Proxy struct {
	Addr string

	fault   Fault
	target  string
	lock    sync.Mutex
	passed  int64
	once    sync.Once
	reached chan struct{}
	done    chan struct{}
}

// Faulty starts a proxy in front of an address; it ends with the test.
func Faulty(t testing.TB, target string, fault Fault) *Proxy {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	p := &Proxy{Addr: l.Addr().String(), fault: fault, target: target, reached: make(chan struct{}), done: make(chan struct{})}
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

// Passed returns how many bytes of answers have passed.
func (p *Proxy) Passed() int64 {
	p.lock.Lock()
	defer p.lock.Unlock()
	return p.passed
}

// Reached is closed when the fault's point is reached.
func (p *Proxy) Reached() <-chan struct{} { return p.reached }

// count counts n more bytes and returns how many of them come before the fault.
func (p *Proxy) count(n int) int {
	p.lock.Lock()
	defer p.lock.Unlock()
	before := min(int64(n), max(0, p.fault.After-p.passed))
	p.passed += int64(n)
	return int(before)
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
	buffer := make([]byte, 4096)
	for {
		n, err := server.Read(buffer)
		if n > 0 {
			before := p.count(n)
			if before < n || p.fault.After == 0 {
				p.once.Do(func() {
					close(p.reached)
					if p.fault.Then != nil {
						p.fault.Then()
					}
				})
				switch p.fault.Do {
				case "drop":
					_, _ = client.Write(buffer[:before])
					return
				case "hang":
					_, _ = client.Write(buffer[:before])
					<-p.done
					return
				case "nonsense":
					for i := before; i < n; i++ {
						buffer[i] = byte(i*167 + 89)
					}
				}
			}
			if _, err := client.Write(buffer[:n]); err != nil {
				return
			}
		}
		if err != nil {
			return
		}
	}
}
