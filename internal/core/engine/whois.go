package engine

// After a conversation failed, the first bytes of other protocols tell what it is that listens there.

import (
	"context"
	"fmt"
	"net"
	"strings"
	"time"
)

// WhoAnswers tries to tell what listens at an address, after a conversation with it failed: "a MariaDB server (10.11)".
// It returns "" where nothing is recognised. It sends nothing but the first bytes of the protocols that it knows.
func WhoAnswers(ctx context.Context, network, address string) string {
	const wait = 700 * time.Millisecond
	ask := func(send []byte) []byte {
		dialer := net.Dialer{Timeout: wait}
		conn, err := dialer.DialContext(ctx, network, address)
		if err != nil {
			return nil
		}
		defer conn.Close()
		if err := conn.SetDeadline(time.Now().Add(wait)); err != nil {
			return nil
		}
		if len(send) > 0 {
			if _, err := conn.Write(send); err != nil {
				return nil
			}
		}
		answer := make([]byte, 256)
		n, _ := conn.Read(answer)
		return answer[:n]
	}
	if greeting := ask(nil); len(greeting) > 0 {
		return greeter(greeting)
	}
	sslRequest := []byte{0, 0, 0, 8, 4, 210, 22, 47} // PostgreSQL, "SSLRequest"
	if answer := ask(sslRequest); len(answer) > 0 {
		switch {
		case len(answer) == 1 && (answer[0] == 'S' || answer[0] == 'N'):
			return "a PostgreSQL server"
		case strings.HasPrefix(string(answer), "HTTP/"):
			return "a web server"
		case answer[0] == '-':
			return "a Redis server"
		}
	}
	prelogin := []byte{0x12, 1, 0, 0x1a, 0, 0, 0, 0, 0, 0, 0x0b, 0, 6, 1, 0, 0x11, 0, 1, 0xff, 0, 0, 0, 0, 0, 0, 2} // [MS-TDS] 2.2.6.5, VERSION and ENCRYPTION
	if answer := ask(prelogin); len(answer) > 0 {
		switch {
		case answer[0] == 4:
			return "an SQL Server"
		case strings.HasPrefix(string(answer), "HTTP/"):
			return "a web server"
		}
	}
	return ""
}

// greeter recognises servers that speak first.
func greeter(greeting []byte) string {
	text := string(greeting)
	switch {
	case strings.HasPrefix(text, "SSH-"):
		return "an SSH server"
	case strings.HasPrefix(text, "HTTP/"):
		return "a web server"
	case strings.HasPrefix(text, "220"):
		return "a mail or file server"
	case len(greeting) > 5 && greeting[4] == 10: // protocol 10, then the version
		version, _, _ := strings.Cut(text[5:], "\x00")
		if i := strings.Index(version, "-MariaDB"); i >= 0 {
			return fmt.Sprintf("a MariaDB server (%s)", strings.TrimPrefix(version[:i], "5.5.5-"))
		}
		return fmt.Sprintf("a MySQL server (%s)", version)
	case len(greeting) > 5 && greeting[4] == 0xff:
		return "a MariaDB or MySQL server, which refuses this host"
	}
	return ""
}

// OtherMake completes the error of a failed connection where another make of server answers there. own is the word by
// which WhoAnswers knows the wanted make.
func (e *ConnectError) OtherMake(ctx context.Context, network, address string, own ...string) {
	who := WhoAnswers(ctx, network, address)
	if who == "" {
		return
	}
	for _, word := range own {
		if strings.Contains(who, word) {
			return
		}
	}
	e.Cause, e.Advice = who+" answers at "+address, "check the port, or the scheme of the URL"
}
