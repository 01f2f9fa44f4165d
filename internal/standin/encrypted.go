package standin

// Encryption: the handshake goes in packets of the prelogin's type, and all that follows in the clear of the protocol
// ([MS-TDS] 3.2.5.1, 3.3.5.2).

import (
	"crypto/tls"
	"encoding/binary"
	"io"
	"net"
)

// What the two sides say of encryption ([MS-TDS] 2.2.6.5).
const (
	encryptOn           = 1
	encryptNotSupported = 2
)

// handshaking is a connection whose bytes go in packets until its handshake is over.
type handshaking struct {
	net.Conn
	left int // of the present packet
	over bool
}

func (h *handshaking) Read(b []byte) (int, error) {
	if h.over {
		return h.Conn.Read(b)
	}
	for h.left == 0 {
		var head [headerSize]byte
		if _, err := io.ReadFull(h.Conn, head[:]); err != nil {
			return 0, err
		}
		if head[0] != messagePrelogin {
			return 0, errBroken
		}
		h.left = int(binary.BigEndian.Uint16(head[2:])) - headerSize
	}
	n, err := h.Conn.Read(b[:min(len(b), h.left)])
	h.left -= n
	return n, err
}

func (h *handshaking) Write(b []byte) (int, error) {
	if h.over {
		return h.Conn.Write(b)
	}
	head := [headerSize]byte{messagePrelogin, endOfMesage}
	binary.BigEndian.PutUint16(head[2:], uint16(headerSize+len(b)))
	if _, err := h.Conn.Write(append(head[:], b...)); err != nil {
		return 0, err
	}
	return len(b), nil
}

// encrypted returns a connection on which all is encrypted.
func encrypted(conn net.Conn, config *tls.Config) (net.Conn, error) {
	h := &handshaking{Conn: conn}
	config = config.Clone()
	config.MaxVersion = tls.VersionTLS12 // of version 1.3 a part would follow the handshake
	c := tls.Server(h, config)
	if err := c.Handshake(); err != nil {
		return nil, err
	}
	h.over = true
	return c, nil
}
