package standin

// The stand-in takes connections and answers what it knows from its fixtures.

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"sync"
)

// Server is a running stand-in.
type Server struct {
	User, Password string      // who may log in
	Hidden         []string    // databases that the user may not open
	Profile        Profile     // set before the first session
	TLS            *tls.Config // of a server that encrypts all; set before the first session

	listener  net.Listener
	databases map[string]*database
	wait      sync.WaitGroup
	lock      sync.Mutex
	open      map[net.Conn]bool
	closed    bool
}

// Start runs a stand-in on a free port of 127.0.0.1. Databases are named by their fixtures: scripts that
// fill the catalogue views.
func Start(user, password string, fixtures map[string]string) (*Server, error) {
	s := &Server{User: user, Password: password, databases: map[string]*database{}, open: map[net.Conn]bool{}}
	for name, script := range fixtures {
		d, err := openDatabase(name, script)
		if err != nil {
			s.Close()
			return nil, fmt.Errorf("filling the database %s of the stand-in: %w", name, err)
		}
		s.databases[name] = d
	}
	var err error
	if s.listener, err = net.Listen("tcp", "127.0.0.1:0"); err != nil {
		s.Close()
		return nil, fmt.Errorf("starting the stand-in: %w", err)
	}
	s.wait.Go(s.accept)
	return s, nil
}

// Addr returns host and port.
func (s *Server) Addr() string { return s.listener.Addr().String() }

// Close ends all sessions and the server.
func (s *Server) Close() {
	s.lock.Lock()
	s.closed = true
	for c := range s.open {
		c.Close()
	}
	s.lock.Unlock()
	if s.listener != nil {
		s.listener.Close()
	}
	s.wait.Wait()
	for _, d := range s.databases {
		d.close()
	}
}

func (s *Server) accept() {
	for {
		conn, err := s.listener.Accept()
		if err != nil {
			return
		}
		s.lock.Lock()
		if s.closed {
			s.lock.Unlock()
			conn.Close()
			return
		}
		s.open[conn] = true
		s.lock.Unlock()
		s.wait.Go(func() {
			defer func() {
				conn.Close()
				s.lock.Lock()
				delete(s.open, conn)
				s.lock.Unlock()
			}()
			ss := &session{server: s, conn: conn}
			_ = ss.serve() // a client that breaks off or off the rails ends its session, and nothing else
		})
	}
}

// session is one connection.
type session struct {
	server   *Server
	conn     net.Conn
	database *database
}

type message struct {
	kind byte
	body []byte
	err  error
}

func (s *session) serve() error {
	kind, body, err := readMessage(s.conn)
	if err != nil {
		return err
	}
	if kind == messagePrelogin {
		if err := parsePrelogin(body); err != nil {
			return err
		}
		// Version 15.0, encryption, no instance check, no MARS.
		options := []byte{0, 0, 21, 0, 6, 1, 0, 27, 0, 1, 2, 0, 28, 0, 1, 4, 0, 29, 0, 1, 0xff}
		encryption := byte(encryptNotSupported)
		if s.server.TLS != nil {
			encryption = encryptOn
		}
		if err := writeMessage(s.conn, append(options, 15, 0, 0x10, 0x4d, 0, 0, encryption, 0, 0)); err != nil {
			return err
		}
		if s.server.TLS != nil {
			if s.conn, err = encrypted(s.conn, s.server.TLS); err != nil {
				return err
			}
		}
		if kind, body, err = readMessage(s.conn); err != nil {
			return err
		}
	}
	if kind != messageLogin {
		return errBroken
	}
	l, err := parseLogin(body)
	if err != nil {
		return err
	}
	if err := s.login(l); err != nil {
		return err
	}
	// Messages are read beside the answers, since an attention has to be noticed meanwhile.
	incoming := make(chan message)
	done := make(chan struct{})
	defer close(done)
	s.server.wait.Go(func() {
		for {
			kind, body, err := readMessage(s.conn)
			select {
			case incoming <- message{kind, body, err}:
			case <-done:
				return
			}
			if err != nil {
				return
			}
		}
	})
	for {
		m := <-incoming
		if m.err != nil {
			return m.err
		}
		if err := s.answer(m, incoming); err != nil {
			return err
		}
	}
}

// login checks who comes and answers.
func (s *session) login(l login) error {
	var r reply
	refuse := func(number int, text string) error {
		r.message(tokenError, number, 14, text, "STANDIN")
		r.done(doneError, 0)
		if err := writeMessage(s.conn, r.b); err != nil {
			return err
		}
		return errors.New(text)
	}
	if l.user != s.server.User || l.password != s.server.Password {
		return refuse(18456, fmt.Sprintf("Login failed for user '%s'.", l.user))
	}
	name := l.database
	if name == "" {
		name = "master"
	}
	if s.database = s.server.find(name); s.database == nil {
		return refuse(4060, fmt.Sprintf("Cannot open database \"%s\" requested by the login. The login failed.", name))
	}
	r.change(changeDatabase, s.database.name, "master")
	r.message(tokenInfo, 5701, 0, fmt.Sprintf("Changed database context to '%s'.", s.database.name), "STANDIN")
	r.token(tokenLoginAck, func(t *reply) {
		t.b = append(t.b, 1, 0x74, 0, 0, 4) // TDS 7.4
		t.short("Microsoft SQL Server")
		t.b = append(t.b, 15, 0, 0x10, 0x4d)
	})
	r.change(changeSize, "4096", "4096")
	r.done(0, 0)
	return writeMessage(s.conn, r.b)
}

// answer runs one request. An attention that comes meanwhile cancels it.
func (s *session) answer(m message, incoming <-chan message) error {
	var text string
	var err error
	switch m.kind {
	case messageBatch:
		text, err = parseBatch(m.body)
	case messageRPC:
		text, err = parseRPC(m.body)
	case messageAttention:
		var r reply
		r.done(doneAttention, 0)
		return writeMessage(s.conn, r.b)
	default:
		return fmt.Errorf("a message of type %#x is not known here", m.kind)
	}
	if errors.Is(err, errBroken) {
		return err
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	finished := make(chan reply, 1)
	go func() {
		var r reply
		if err == nil {
			err = s.run(ctx, text, &r)
		}
		if err != nil {
			r = reply{}
			r.message(tokenError, errorNumber(err), 16, err.Error(), "STANDIN")
			r.done(doneError, 0)
		}
		finished <- r
	}()
	select {
	case r := <-finished:
		return writeMessage(s.conn, r.b)
	case next := <-incoming:
		cancel()
		<-finished
		if next.err != nil {
			return next.err
		}
		if next.kind != messageAttention {
			return errBroken // a second request before the answer
		}
		var r reply
		r.done(doneAttention, 0)
		return writeMessage(s.conn, r.b)
	}
}

// find returns the database of that name, which is compared without case, nil if the user may not open it.
func (s *Server) find(name string) *database {
	for _, d := range s.databases {
		if equalFold(d.name, name) {
			for _, h := range s.Hidden {
				if equalFold(h, name) {
					return nil
				}
			}
			return d
		}
	}
	return nil
}
