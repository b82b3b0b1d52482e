package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"net/url"
	"os"
	"runtime/debug"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"glenmist/backup"
	"glenmist/sim/simulator"
	"glenmist/sim/standin"
	"glenmist/store"
	"glenmist/store/cluster"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
)

const shutdownTime = 10 * time.Second

// open connects to the database that the flags name.
func open(cmd *cobra.Command) (*store.Store, error) {
	address, _ := cmd.Flags().GetString("database-url")
	if address == "" {
		return nil, usageError{errors.New("expected a database: set GLENMIST_DATABASE_URL or --database-url, or run make demo, which brings its own")}
	}
	return openAt(address)
}

// openAt connects to a database, as this version of the program.
func openAt(address string) (*store.Store, error) {
	s, err := store.Open(address)
	if err == nil {
		s.SetProgram(version)
	}
	return s, err
}

// withStore opens the database for a command and closes it afterwards.
func withStore(do func(cmd *cobra.Command, args []string, s *store.Store) error) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, args []string) (err error) {
		s, err := open(cmd)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, s.Close()) }()
		cmd.SetContext(store.WithActor(cmd.Context(), store.Actor{Name: commandLine}))
		return do(cmd, args, s)
	}
}

// migrate brings the schema up to date, as the role of --migrate-url where it is given,
// and gives the role of --database-url the rights to serve.
func migrate(cmd *cobra.Command) (int, error) {
	serving, _ := cmd.Flags().GetString("database-url")
	owner, _ := cmd.Flags().GetString("migrate-url")
	n, err := store.MigrateAs(cmd.Context(), owner, serving)
	if err != nil {
		return n, fmt.Errorf("migrate: %w", err)
	}
	return n, nil
}

func migrateFlags(cmd *cobra.Command) {
	cmd.Flags().String("migrate-url", "", "the same database as the role that owns the schema; without it the role of --database-url does both")
}

func listenFlags(cmd *cobra.Command) {
	cmd.Flags().String("listen", "127.0.0.1:8484", "address to serve on; loopback unless you say otherwise")
	cmd.Flags().String("public-url", "", "address that people use, such as https://glenmist.example, when it is not the one to serve on")
	cmd.Flags().Bool("gallery", false, "show the states of the views at /gallery, for development")
	cmd.Flags().String("metrics-listen", "", "address of this machine to serve /metrics on, such as 127.0.0.1:9484; without it nobody can ask for them")
	cmd.Flags().StringSlice("trusted-proxy", nil, "address or range whose X-Forwarded-For is believed, such as 127.0.0.1 or 10.0.0.0/8; may be repeated")
	cmd.Flags().String("tls-cert", "", "file with the certificate and its chain in PEM, to serve HTTPS; --tls-key is its key")
	cmd.Flags().String("tls-key", "", "file with the private key of --tls-cert in PEM")
	cmd.Flags().Bool("plain-http", false, "serve other machines without TLS: passwords cross the network readable")
	cmd.Flags().StringSlice("allow-host", nil, "another name that requests may use for this server; may be repeated")
}

func serveCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "serve", Short: "Serve the jobs of a database in the browser", Args: cobra.NoArgs,
		RunE: withStore(func(cmd *cobra.Command, _ []string, s *store.Store) error {
			log, err := logger(cmd)
			if err != nil {
				return err
			}
			n, err := migrate(cmd)
			if err != nil {
				return err
			}
			log.Info("schema is up to date", "migrations_run", n)
			db, _ := wholeDatabase(cmd)
			return serve(cmd, s, db, log, false)
		})}
	listenFlags(cmd)
	scheduleFlags(cmd, "")
	retentionFlags(cmd)
	migrateFlags(cmd)
	cmd.Flags().Bool("standin", false, "offer the simulated meter and spark tester, for practice")
	cmd.Flags().String("vehicle", "", vehicleHelp)
	cmd.PreRunE = checkVehicle
	return cmd
}

// instruments are what can be read with one key: the simulated ones, if they are asked for.
func instruments(cmd *cobra.Command) page.Instruments {
	if on, _ := cmd.Flags().GetBool("standin"); !on {
		return nil
	}
	return standins
}

// standins are the simulated instruments.
var standins = standin.Standin{Chance: chance}

func chance(a, b uint64) simulator.Rand { return rand.New(rand.NewPCG(a, b)) } //nolint:gosec // a practice, nothing secret

// serve serves until the context ends, then lets what is under way finish.
func serve(cmd *cobra.Command, s *store.Store, db backup.Database, log *slog.Logger, isDemo bool) error {
	address, _ := cmd.Flags().GetString("listen")
	proxies, err := trustedProxies(cmd)
	if err != nil {
		return err
	}
	certificate, err := certificateOf(cmd)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		return fmt.Errorf("cannot serve on %s: %w; PORT= or --listen chooses another", address, err)
	}
	public, err := publicURL(cmd)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	tcp, ok := l.Addr().(*net.TCPAddr)
	loopback := ok && tcp.IP.IsLoopback()
	if certificate != nil && public == nil {
		public = &url.URL{Scheme: "https", Host: l.Addr().String()}
	}
	if plain, _ := cmd.Flags().GetBool("plain-http"); !loopback && !plain && (public == nil || public.Scheme != "https") {
		return errors.Join(usageError{errors.New("other machines are served over TLS only: expected --tls-cert and --tls-key, or --public-url https://… behind a proxy; --plain-http serves them without")}, l.Close())
	}
	old, err := retentionOf(cmd, log)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	backups, err := scheduled(cmd, db, log)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	go old.run(cmd.Context(), s)
	hosts, _ := cmd.Flags().GetStringSlice("allow-host")
	gallery, _ := cmd.Flags().GetBool("gallery")
	registry := newRegistry()
	if at, _ := cmd.Flags().GetString("metrics-listen"); at != "" {
		where, err := serveMetrics(cmd.Context(), at, registry, log)
		if err != nil {
			return errors.Join(err, l.Close())
		}
		log.Info("metrics are served", "address", where)
	}
	vehicles, err := vehicles(cmd, log)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	boundMemory()
	s.LogTo(log)
	handler, err := web.New(page.Config{Jobs: s, Log: log, Now: time.Now, Version: version, Loopback: loopback, Address: l.Addr().String(),
		Demo: isDemo, Proxies: proxies,
		PublicURL: public, Hosts: hosts, Stopping: cmd.Context(), Instruments: instruments(cmd), Vehicles: vehicles, Gallery: gallery, Backups: backups, Metrics: registry})
	if err != nil {
		return errors.Join(err, l.Close())
	}
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second, IdleTimeout: 2 * time.Minute,
		MaxHeaderBytes: 32 << 10, ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	scheme := "http"
	if certificate != nil {
		scheme, l = "https", tls.NewListener(l, &tls.Config{MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}, GetCertificate: certificate})
	}
	fmt.Fprintf(cmd.OutOrStdout(), "Glenmist is at %s://%s (Ctrl-C stops it)\n", scheme, l.Addr())
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(l) }()
	select {
	case err := <-ended:
		return err
	case <-cmd.Context().Done():
	}
	fmt.Fprintln(cmd.OutOrStdout(), "Stopping.")
	ctx, cancel := context.WithTimeout(context.Background(), shutdownTime)
	defer cancel()
	if err := server.Shutdown(ctx); err != nil {
		return fmt.Errorf("stop: %w", err)
	}
	return nil
}

// publicURL is the address of --public-url, or nil.
func publicURL(cmd *cobra.Command) (*url.URL, error) {
	text, _ := cmd.Flags().GetString("public-url")
	if text == "" {
		return nil, nil //nolint:nilnil // none is no error
	}
	u, err := url.Parse(text)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Hostname() == "" || strings.Trim(u.Path, "/") != "" || u.RawQuery != "" {
		return nil, usageError{fmt.Errorf("public-url: expected http or https, a host and no path, such as https://glenmist.example, got %q", text)}
	}
	return u, nil
}

// memoryGoal is where the collector of garbage begins to work harder, in bytes. What is
// bounded by other means (photos and captures) stays below it together.
const memoryGoal = 136 << 20

// boundMemory sets the goal, unless GOMEMLIMIT does.
func boundMemory() {
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryGoal)
	}
}

func migrateCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "migrate", Short: "Bring the database's schema up to date", Args: cobra.NoArgs,
		RunE: withStore(func(cmd *cobra.Command, _ []string, _ *store.Store) error {
			n, err := migrate(cmd)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Schema is up to date; %d migrations run.\n", n)
			return nil
		})}
	migrateFlags(cmd)
	return cmd
}

func demoCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "demo", Short: "Serve an invented workshop from a private PostgreSQL", Args: cobra.NoArgs,
		Long: "Serves an invented workshop. Without a database it starts a private PostgreSQL of its own on loopback, keeps its data, and stops it again on Ctrl-C.",
		RunE: runDemo}
	listenFlags(cmd)
	scheduleFlags(cmd, ".backups")
	retentionFlags(cmd)
	migrateFlags(cmd)
	cmd.Flags().String("state", ".state", "folder for the private PostgreSQL; one that its user can reach is used instead where it must be")
	cmd.Flags().Bool("standin", true, "offer the simulated meter and spark tester, for practice")
	cmd.Flags().String("vehicle", ownVehicle, vehicleHelp+"; own starts a simulated vehicle beside the server")
	cmd.PreRunE = checkVehicle
	cmd.Flags().Int("jobs", 0, "copy jobs until there are so many, to try a workshop of years")
	cmd.Flags().Bool("reset", false, "delete the private PostgreSQL first and start afresh")
	return cmd
}

func runDemo(cmd *cobra.Command, _ []string) (err error) {
	log, err := logger(cmd)
	if err != nil {
		return err
	}
	state, _ := cmd.Flags().GetString("state")
	reset, _ := cmd.Flags().GetBool("reset")
	address, _ := cmd.Flags().GetString("database-url")
	owner, _ := cmd.Flags().GetString("migrate-url")
	if reset {
		if address != "" {
			return usageError{errors.New("--reset deletes the private PostgreSQL only; a database named by GLENMIST_DATABASE_URL is left alone")}
		}
		if err := cluster.Remove(state); err != nil {
			return err
		}
		dir, _ := cmd.Flags().GetString("backup-dir")
		if err := backup.SetAside(dir); err != nil {
			return fmt.Errorf("set aside the backups of the former data: %w", err)
		}
	}
	db, _ := wholeDatabase(cmd)
	if address == "" {
		c, err := cluster.Start(cmd.Context(), state)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, c.Stop()) }()
		log.Info("private PostgreSQL is up", "folder", c.Dir)
		address, owner = c.URL, c.OwnerURL
		db.URL, db.Owner = c.AdminURL, cluster.Owner
	}
	s, err := openAt(address)
	if err != nil {
		return err
	}
	defer func() { _ = s.Close() }()
	if _, err := store.MigrateAs(cmd.Context(), owner, address); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	loaded, err := demo.Load(cmd.Context(), s, time.Now())
	if err != nil {
		return err
	}
	if loaded {
		if err := demo.LoadPast(cmd.Context(), s, time.Now()); err != nil {
			return err
		}
		log.Info("demo jobs are loaded")
	}
	if n, _ := cmd.Flags().GetInt("jobs"); n > 0 {
		if err := s.Multiply(cmd.Context(), n); err != nil {
			return err
		}
		log.Info("the workshop is filled", "jobs", n)
	}
	return serve(cmd, s, db, log, true)
}
