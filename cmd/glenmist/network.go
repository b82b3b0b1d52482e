package main

import (
	"crypto/tls"
	"errors"
	"fmt"
	"net/netip"
	"os"
	"sync"
	"time"

	"github.com/spf13/cobra"
)

// trustedProxies are the ranges of --trusted-proxy.
func trustedProxies(cmd *cobra.Command) (all []netip.Prefix, err error) {
	texts, _ := cmd.Flags().GetStringSlice("trusted-proxy")
	for _, text := range texts {
		p, err := netip.ParsePrefix(text)
		if err != nil {
			addr, alone := netip.ParseAddr(text)
			if alone != nil {
				return nil, usageError{fmt.Errorf("trusted-proxy: expected an address or a range, such as 10.0.0.0/8, got %q", text)}
			}
			p = netip.PrefixFrom(addr, addr.BitLen())
		}
		all = append(all, p)
	}
	return all, nil
}

// certificateOf returns the certificate of --tls-cert and --tls-key for each connection, or nil without them.
func certificateOf(cmd *cobra.Command) (func(*tls.ClientHelloInfo) (*tls.Certificate, error), error) {
	cert, _ := cmd.Flags().GetString("tls-cert")
	key, _ := cmd.Flags().GetString("tls-key")
	if (cert == "") != (key == "") {
		return nil, usageError{errors.New("expected both --tls-cert and --tls-key, got one")}
	}
	if cert == "" {
		return nil, nil
	}
	return renewed(cert, key, time.Now)
}

// renewed returns the certificate of two files for each connection. A file that was replaced is read again, at most once a
// minute; if it cannot be read, the last certificate stays.
func renewed(cert, key string, now func() time.Time) (func(*tls.ClientHelloInfo) (*tls.Certificate, error), error) {
	pair, err := tls.LoadX509KeyPair(cert, key)
	if err != nil {
		return nil, usageError{fmt.Errorf("expected a certificate and its key in PEM: %w", err)}
	}
	var mu sync.Mutex
	read, last := changed(cert), now()
	return func(*tls.ClientHelloInfo) (*tls.Certificate, error) {
		mu.Lock()
		defer mu.Unlock()
		served := pair
		if now().Sub(last) < time.Minute {
			return &served, nil
		}
		last = now()
		if at := changed(cert); !at.Equal(read) {
			if fresh, err := tls.LoadX509KeyPair(cert, key); err == nil {
				pair, served, read = fresh, fresh, at
			}
		}
		return &served, nil
	}, nil
}

// changed returns when a file was last changed; the zero time if it cannot be found.
func changed(name string) time.Time {
	info, err := os.Stat(name)
	if err != nil {
		return time.Time{}
	}
	return info.ModTime()
}
