package standin

import (
	"bytes"
	"encoding/binary"
	"io"
	"net"
	"strings"
	"testing"
	"time"
)

func packet(kind, status byte, body []byte) []byte {
	b := []byte{kind, status, 0, 0, 0, 0, 1, 0}
	binary.BigEndian.PutUint16(b[2:], uint16(len(b)+len(body)))
	return append(b, body...)
}

func TestMessages(t *testing.T) {
	long := bytes.Repeat([]byte("mooring "), 2000)
	var wire bytes.Buffer
	if err := writeMessage(&wire, long); err != nil {
		t.Fatal(err)
	}
	kind, body, err := readMessage(&wire)
	if err != nil || kind != messageReply || !bytes.Equal(body, long) {
		t.Errorf("a message of several packets came back as type %#x with %d bytes, %v", kind, len(body), err)
	}
	for name, b := range map[string][]byte{
		"shorter than its header": {1, 1, 0, 4, 0, 0, 1, 0},
		"cut in its header":       {1, 1, 0},
		"cut in its body":         packet(1, 1, []byte("whole"))[:10],
		"of two types":            append(packet(1, 0, []byte("a")), packet(3, 1, []byte("b"))...),
	} {
		if _, _, err := readMessage(bytes.NewReader(b)); err == nil {
			t.Errorf("a packet that is %s was taken", name)
		}
	}
}

// parameterised builds a call of sp_executesql as the specification lays it out.
func parameterised(statement string, parameters ...any) []byte {
	b := []byte{4, 0, 0, 0, 0xff, 0xff, procedureExecuteSQL, 0, 0, 0}
	text := func(name, s string) {
		u := utf16le(s)
		b = append(append(b, byte(len(utf16le(name))/2)), utf16le(name)...)
		b = append(b, 0, typeNVarChar)
		b = append(binary.LittleEndian.AppendUint16(b, 8000), collation[:]...)
		b = append(binary.LittleEndian.AppendUint16(b, uint16(len(u))), u...)
	}
	text("", statement)
	text("", "@p1 nvarchar(40), @p2 int")
	for i, p := range parameters {
		name := "@p" + string(rune('1'+i))
		switch v := p.(type) {
		case string:
			text(name, v)
		case int32:
			b = append(append(b, byte(len(name))), utf16le(name)...)
			b = binary.LittleEndian.AppendUint32(append(b, 0, typeIntN, 4, 4), uint32(v))
		}
	}
	return b
}

func TestRequests(t *testing.T) {
	got, err := parseRPC(parameterised("SELECT name FROM sys.tables WHERE name = @p1 AND object_id > @p2", "it's", int32(-5)))
	if want := "SELECT name FROM sys.tables WHERE name = 'it''s' AND object_id > -5"; err != nil || got != want {
		t.Errorf("%q, %v", got, err)
	}
	got, err = parseBatch(append([]byte{4, 0, 0, 0}, utf16le("SELECT N'ø😀'")...))
	if err != nil || got != "SELECT N'ø😀'" {
		t.Errorf("%q, %v", got, err)
	}
	whole := parameterised("SELECT 1", "x")
	for i := range whole {
		if _, err := parseRPC(whole[:i]); err == nil && i < 20 {
			t.Errorf("%d of %d bytes were taken for a call", i, len(whole))
		}
	}
	if err := parsePrelogin([]byte{0, 0, 6, 0, 6, 0xff, 1, 2, 3, 4, 5, 6}); err != nil {
		t.Error(err)
	}
	for _, b := range [][]byte{{}, {0}, {0, 0, 200, 0, 9, 0xff}} {
		if parsePrelogin(b) == nil {
			t.Errorf("%v was taken for a pre-login", b)
		}
	}
}

// Whatever a client sends, its session ends and the server lives.
func TestHostileClients(t *testing.T) {
	s, err := Start("keeper", "", map[string]string{"master": ""})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	for name, b := range map[string][]byte{
		"nothing":          {},
		"another protocol": []byte("GET / HTTP/1.1\r\nHost: quay\r\n\r\n"),
		"a query first":    packet(messageBatch, 1, append([]byte{4, 0, 0, 0}, utf16le("SELECT 1")...)),
		"a short login":    packet(messageLogin, 1, make([]byte, 20)),
		"places outside":   packet(messageLogin, 1, bytes.Repeat([]byte{0xff}, 120)),
		"zeros":            make([]byte, 4000),
	} {
		conn, err := net.Dial("tcp", s.Addr())
		if err != nil {
			t.Fatalf("after %s: %v", name, err)
		}
		_, _ = conn.Write(b)
		if c, ok := conn.(*net.TCPConn); ok {
			_ = c.CloseWrite()
		}
		_ = conn.SetReadDeadline(time.Now().Add(5 * time.Second))
		if _, err := io.Copy(io.Discard, conn); err != nil && !strings.Contains(err.Error(), "reset") {
			t.Errorf("%s: the session goes on: %v", name, err)
		}
		conn.Close()
	}
}

func TestFixtures(t *testing.T) {
	if _, err := Fixture("no_such"); err == nil {
		t.Error("a fixture that is not there was found")
	}
	if _, err := Start("keeper", "", map[string]string{"broken": "INSERT INTO sys.nowhere VALUES (1)"}); err == nil || !strings.Contains(err.Error(), "broken") {
		t.Errorf("a broken fixture: %v", err)
	}
}

func FuzzMessage(f *testing.F) {
	f.Add(packet(messageBatch, 1, append([]byte{4, 0, 0, 0}, utf16le("SELECT 1")...)))
	f.Add(packet(messageRPC, 1, parameterised("SELECT @p1", "x", int32(1))))
	f.Add(packet(messageLogin, 1, make([]byte, 94)))
	f.Add(packet(messagePrelogin, 1, []byte{0xff}))
	f.Fuzz(func(t *testing.T, b []byte) {
		kind, body, err := readMessage(bytes.NewReader(b))
		if err != nil {
			return
		}
		switch kind {
		case messageBatch:
			_, _ = parseBatch(body)
		case messageRPC:
			if text, err := parseRPC(body); err == nil && strings.Count(text, "'")%2 != 0 && !strings.Contains(fromUTF16(body), "'") {
				t.Errorf("a value broke out of its literal: %q", text)
			}
		case messageLogin:
			_, _ = parseLogin(body)
		case messagePrelogin:
			_ = parsePrelogin(body)
		}
	})
}
