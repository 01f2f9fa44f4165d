package sqlserver

// What goes over the wire: the types that the documentation gives the columns of the views, and encryption.

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/standin"
)

// Columns come as their views declare them: padded, in their widths, as variants, NULL among values.
func TestWireTypes(t *testing.T) {
	s := start(t)
	session, err := Engine{}.Connect(t.Context(), target(s.Addr(), "beacons"))
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	rows, err := session.(*server).db.QueryContext(t.Context(), `SELECT o.type, t.is_memory_optimized, t.temporal_type, c.max_length, c.object_id, p.rows, t.name, i.seed_value, t.history_table_id
FROM sys.objects o JOIN sys.tables t ON t.object_id = o.object_id LEFT JOIN sys.columns c ON c.object_id = t.object_id LEFT JOIN sys.partitions p ON p.object_id = t.object_id JOIN sys.identity_columns i ON i.object_id = t.object_id`)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	types, err := rows.ColumnTypes()
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, x := range types {
		got = append(got, x.DatabaseTypeName())
	}
	if want := "CHAR BIT TINYINT SMALLINT INT BIGINT NVARCHAR SQL_VARIANT INT"; strings.Join(got, " ") != want {
		t.Errorf("%q, want %s", got, want)
	}
	if !rows.Next() {
		t.Fatal("no rows", rows.Err())
	}
	values, to := make([]any, len(types)), make([]any, len(types))
	for i := range values {
		to[i] = &values[i]
	}
	if err := rows.Scan(to...); err != nil {
		t.Fatal(err)
	}
	if kind, _ := values[0].([]byte); string(kind) != "U " {
		if text, _ := values[0].(string); text != "U " {
			t.Errorf("the type is %q", values[0])
		}
	}
	if seed, ok := values[7].(int64); !ok || seed != 1 || values[8] != nil {
		t.Errorf("a variant is %v, and NULL %v", values[7], values[8])
	}
}

// certificate makes an authority of its own that names a host, and returns it with its file.
func certificate(t *testing.T, host string) (tls.Certificate, string) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	of := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: host}, DNSNames: []string{host}, NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour),
		IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign}
	if ip := net.ParseIP(host); ip != nil {
		of.DNSNames, of.IPAddresses = nil, []net.IP{ip}
	}
	der, err := x509.CreateCertificate(rand.Reader, of, of, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "authority.pem")
	if err := os.WriteFile(file, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600); err != nil {
		t.Fatal(err)
	}
	return tls.Certificate{Certificate: [][]byte{der}, PrivateKey: key}, file
}

// A connection is encrypted unless the URL says otherwise, and the certificate is looked at.
func TestEncrypted(t *testing.T) {
	its, file := certificate(t, "127.0.0.1")
	other, otherFile := certificate(t, "quay.example")
	start := func(c tls.Certificate) *standin.Server {
		s := moored(t, standin.Profile{Version: "16.0.1000.6"})
		s.TLS = &tls.Config{Certificates: []tls.Certificate{c}}
		return s
	}
	for _, of := range []struct {
		name, parameters, says string
		with                   tls.Certificate
	}{
		{"of an authority that is named", "&certificate=" + file, "", its},
		{"that is trusted whatever it is", "&TrustServerCertificate=true", "", its},
		{"of no authority that is known", "", "authority", its},
		{"of another name", "&certificate=" + otherFile, "IP SANs", other},
		{"of another name that is expected", "&certificate=" + otherFile + "&hostNameInCertificate=quay.example", "", other},
	} {
		t.Run(of.name, func(t *testing.T) {
			s := start(of.with)
			session, err := Engine{}.Connect(t.Context(), engine.Target{URL: "sqlserver://surveyor@" + s.Addr() + "?database=moorings" + of.parameters, Password: func(context.Context) (string, error) { return "fog-and-foam", nil }})
			if err != nil {
				if of.says == "" || !strings.Contains(err.Error(), of.says) || strings.Contains(err.Error(), "fog-and-foam") {
					t.Errorf("%v, want %q", err, of.says)
				}
				return
			}
			defer session.Close()
			if of.says != "" {
				t.Fatalf("it was taken, want %q", of.says)
			}
			if r, err := session.Read(t.Context(), "moorings"); err != nil || len(r.Objects) == 0 {
				t.Errorf("%v", err)
			}
		})
	}
	// A server that does not encrypt is not talked to by accident.
	s := moored(t, standin.Profile{Version: "16.0.1000.6"})
	if _, err := (Engine{}).Connect(t.Context(), engine.Target{URL: "sqlserver://surveyor@" + s.Addr() + "?database=moorings", Password: func(context.Context) (string, error) { return "fog-and-foam", nil }}); err == nil || !strings.Contains(err.Error(), "encrypt") {
		t.Errorf("a server without encryption: %v", err)
	}
}
