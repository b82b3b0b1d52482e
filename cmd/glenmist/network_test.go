package main

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"math/big"
	"os"
	"path/filepath"
	"testing"
	"time"
)

// write writes a certificate of a serial number and its key, as files of a time.
func write(t *testing.T, dir string, serial int64, at time.Time) (cert, key string) {
	t.Helper()
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	about := &x509.Certificate{SerialNumber: big.NewInt(serial), Subject: pkix.Name{CommonName: "glenmist.example"}, NotAfter: at.AddDate(1, 0, 0)}
	der, err := x509.CreateCertificate(rand.Reader, about, about, &private.PublicKey, private)
	if err != nil {
		t.Fatal(err)
	}
	secret, err := x509.MarshalPKCS8PrivateKey(private)
	if err != nil {
		t.Fatal(err)
	}
	cert, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	for name, block := range map[string]*pem.Block{cert: {Type: "CERTIFICATE", Bytes: der}, key: {Type: "PRIVATE KEY", Bytes: secret}} {
		if err := os.WriteFile(name, pem.EncodeToMemory(block), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(name, at, at); err != nil {
			t.Fatal(err)
		}
	}
	return cert, key
}

// A renewed certificate is served without a restart; a broken file leaves the last one.
func TestCertificateIsRenewed(t *testing.T) {
	dir, now := t.TempDir(), time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	cert, key := write(t, dir, 1, now)
	served, err := renewed(cert, key, func() time.Time { return now })
	if err != nil {
		t.Fatal(err)
	}
	serial := func() int64 {
		pair, err := served(nil)
		if err != nil {
			t.Fatal(err)
		}
		leaf, err := x509.ParseCertificate(pair.Certificate[0])
		if err != nil {
			t.Fatal(err)
		}
		return leaf.SerialNumber.Int64()
	}
	write(t, dir, 2, now.Add(time.Hour))
	for _, c := range []struct {
		after time.Duration
		want  int64
	}{{0, 1}, {30 * time.Second, 1}, {31 * time.Second, 2}} {
		now = now.Add(c.after)
		if got := serial(); got != c.want {
			t.Errorf("after %s: certificate %d, want %d", c.after, got, c.want)
		}
	}
	if err := os.WriteFile(cert, []byte("broken"), 0o600); err != nil {
		t.Fatal(err)
	}
	if now = now.Add(2 * time.Minute); serial() != 2 {
		t.Error("a broken file took the certificate away")
	}
	if _, err := renewed(cert, key, time.Now); err == nil {
		t.Error("a broken file is accepted at the start")
	}
}
