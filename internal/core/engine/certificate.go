package engine

// What is wrong with a server's certificate, in words that say what to do.

import (
	"crypto/x509"
	"errors"
	"fmt"
	"io/fs"
	"strings"
)

// ExplainTLS says in the error of a failed connection what is wrong with a certificate or a file of one, if that is
// what failed. authority is the parameter that names a file of authorities, "" where there is none.
func (e *ConnectError) ExplainTLS(err error, host, authority string) bool {
	var name x509.HostnameError
	var unknown x509.UnknownAuthorityError
	var invalid x509.CertificateInvalidError
	var file *fs.PathError
	trust := "have the authority of its certificate accepted by the system"
	if authority != "" {
		trust = "name the file of its authority with ?" + authority + "=FILE"
	}
	switch {
	case errors.As(err, &name):
		names := "no host"
		if name.Certificate != nil && len(name.Certificate.DNSNames)+len(name.Certificate.IPAddresses) > 0 {
			all := append([]string{}, name.Certificate.DNSNames...)
			for _, ip := range name.Certificate.IPAddresses {
				all = append(all, ip.String())
			}
			names = strings.Join(all, ", ")
		} else if name.Certificate != nil && name.Certificate.Subject.CommonName != "" {
			names = name.Certificate.Subject.CommonName + " (in its common name, which does not count)"
		}
		e.Said = nil
		e.Cause, e.Advice = fmt.Sprintf("the server's certificate is for %s, not for %s", names, host), "write a name that it is for, or check that this is the right server"
	case errors.As(err, &unknown):
		issuer := "somebody"
		if unknown.Cert != nil {
			issuer = unknown.Cert.Issuer.String()
		}
		e.Said = nil
		e.Cause, e.Advice = fmt.Sprintf("the certificate of %s is signed by %s, which is no authority that is known here", host, issuer), trust
	case errors.As(err, &invalid) && invalid.Reason == x509.Expired && invalid.Cert != nil:
		e.Said = nil
		e.Cause, e.Advice = fmt.Sprintf("the certificate of %s is valid from %s to %s, and not now", host, invalid.Cert.NotBefore.Format("2006-01-02"), invalid.Cert.NotAfter.Format("2006-01-02")),
			"have it renewed, or check the clock here"
	case errors.As(err, &file):
		e.Said = nil
		e.Cause, e.Advice = fmt.Sprintf("the file %s, which the URL names, cannot be read: %v", file.Path, file.Err), "check its path and who may read it"
	default:
		return false
	}
	return true
}
