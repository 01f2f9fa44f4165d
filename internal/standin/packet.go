package standin

// Packets of the protocol, as its specification has them.

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"unicode/utf16"
)

// Types of messages ([MS-TDS] 2.2.3.1.1).
const (
	messageBatch     = 0x01
	messageRPC       = 0x03
	messageReply     = 0x04
	messageAttention = 0x06
	messageLogin     = 0x10
	messagePrelogin  = 0x12
)

const (
	headerSize  = 8
	packetSize  = 4096
	largest     = 32 << 20 // bytes of one message
	endOfMesage = 0x01
)

var errTooLong = errors.New("the message is too long")

// readMessage reads the packets of one message.
func readMessage(r io.Reader) (kind byte, body []byte, err error) {
	for {
		var header [headerSize]byte
		if _, err := io.ReadFull(r, header[:]); err != nil {
			return 0, nil, err
		}
		length := int(binary.BigEndian.Uint16(header[2:]))
		if length < headerSize {
			return 0, nil, fmt.Errorf("a packet of %d bytes is shorter than its header", length)
		}
		if kind != 0 && header[0] != kind {
			return 0, nil, fmt.Errorf("a packet of type %#x inside a message of type %#x", header[0], kind)
		}
		kind = header[0]
		if len(body)+length > largest {
			return 0, nil, errTooLong
		}
		start := len(body)
		body = append(body, make([]byte, length-headerSize)...)
		if _, err := io.ReadFull(r, body[start:]); err != nil {
			return 0, nil, err
		}
		if header[1]&endOfMesage != 0 {
			return kind, body, nil
		}
	}
}

// writeMessage writes a reply in packets.
func writeMessage(w io.Writer, body []byte) error {
	for id := byte(1); ; id++ {
		n := min(len(body), packetSize-headerSize)
		packet := make([]byte, headerSize, headerSize+n)
		packet[0] = messageReply
		if n == len(body) {
			packet[1] = endOfMesage
		}
		binary.BigEndian.PutUint16(packet[2:], uint16(headerSize+n))
		packet[6] = id
		if _, err := w.Write(append(packet, body[:n]...)); err != nil {
			return err
		}
		if body = body[n:]; len(body) == 0 {
			return nil
		}
	}
}

// utf16le writes a text in UTF-16, little endian.
func utf16le(s string) []byte {
	units := utf16.Encode([]rune(s))
	b := make([]byte, 0, 2*len(units))
	for _, u := range units {
		b = binary.LittleEndian.AppendUint16(b, u)
	}
	return b
}

// fromUTF16 reads a text in UTF-16, little endian; an odd byte at the end is left out.
func fromUTF16(b []byte) string {
	units := make([]uint16, len(b)/2)
	for i := range units {
		units[i] = binary.LittleEndian.Uint16(b[2*i:])
	}
	return string(utf16.Decode(units))
}

// scanner reads the parts of a message; past its end it returns zeros and remembers the failure.
type scanner struct {
	b      []byte
	failed bool
}

func (s *scanner) bytes(n int) []byte {
	if n < 0 || n > len(s.b) {
		s.failed, s.b = true, nil
		return nil
	}
	part := s.b[:n]
	s.b = s.b[n:]
	return part
}

func (s *scanner) uint8() int {
	if b := s.bytes(1); b != nil {
		return int(b[0])
	}
	return 0
}

func (s *scanner) uint16() int {
	if b := s.bytes(2); b != nil {
		return int(binary.LittleEndian.Uint16(b))
	}
	return 0
}

func (s *scanner) uint32() int {
	if b := s.bytes(4); b != nil {
		return int(binary.LittleEndian.Uint32(b))
	}
	return 0
}

// headers passes over the headers that stand before a batch ([MS-TDS] 2.2.5.3).
func (s *scanner) headers() {
	if n := s.uint32(); n >= 4 {
		s.bytes(n - 4)
	} else {
		s.failed = true
	}
}
