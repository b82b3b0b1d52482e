package main

import (
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"

	"github.com/spf13/cobra"

	"glenmist/bus"
	"glenmist/core/casefile"
	"glenmist/core/job"
	"glenmist/link"
	"glenmist/sim/vehicle"
)

const (
	vehicleHelp = "how the vehicle's diagnostic bus is reached: can:INTERFACE for SocketCAN, tcp:HOST:PORT for lines of candump, sim:HOST:PORT for glenmist vehicle"
	// ownVehicle starts a simulated vehicle beside the server.
	ownVehicle = "own"
)

// vehicles are the connections to vehicles that --vehicle asks for, or nil.
func vehicles(cmd *cobra.Command, log *slog.Logger) (*link.Hub, error) {
	text, _ := cmd.Flags().GetString("vehicle")
	switch text {
	case "":
		return nil, nil //nolint:nilnil // none is no error
	case ownVehicle:
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return nil, fmt.Errorf("the simulated vehicle: %w", err)
		}
		ctx := cmd.Context()
		go func() {
			if err := simulated(nil, 1).Serve(ctx, l); err != nil {
				log.Error("the simulated vehicle stopped", "error", err)
			}
		}()
		text = "sim:" + l.Addr().String()
	}
	at, err := bus.ParseAddress(text)
	if err != nil {
		return nil, err
	}
	log.Info("vehicles are reached", "address", at)
	return link.NewHub(cmd.Context(), at), nil
}

// checkVehicle refuses a --vehicle that is no address, before anything is started.
func checkVehicle(cmd *cobra.Command, _ []string) error {
	text, _ := cmd.Flags().GetString("vehicle")
	if text == "" || text == ownVehicle && cmd.Name() == "demo" {
		return nil
	}
	if _, err := bus.ParseAddress(text); err != nil {
		return usageError{err}
	}
	return nil
}

// simulated is a server of simulated vehicles. usual is the job of a client that names none.
func simulated(usual *job.Job, pace float64) *vehicle.Server {
	return &vehicle.Server{Open: standins.Engine, Chance: chance, Pace: pace, Default: usual}
}

func vehicleCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "vehicle", Short: "Answer over TCP as the diagnostic bus of a simulated vehicle", Args: cobra.NoArgs,
		Long: "Answers over TCP as the diagnostic bus of a simulated vehicle. Each line is a frame in the notation of candump: \"obd 7DF#02010C\". " +
			"A server with --vehicle sim:HOST:PORT names its jobs, and each has a vehicle of its own with a fault that fits what was found. " +
			"Without one, --job is a case file whose vehicle answers. Lines that begin with \"! \" are commands; see docs/interface.md.",
		RunE: runVehicle}
	cmd.Flags().String("listen", "127.0.0.1:8485", "address to answer on")
	cmd.Flags().String("job", "", "case file of the vehicle that answers a client which names no job")
	cmd.Flags().Float64("pace", 1, "how fast its time passes at first, 1 to 120")
	return cmd
}

func runVehicle(cmd *cobra.Command, _ []string) error {
	pace, _ := cmd.Flags().GetFloat64("pace")
	if !(pace > 0 && pace <= vehicle.MaxPace) {
		return usageError{fmt.Errorf("pace: expected more than 0 and up to %d, got %g", vehicle.MaxPace, pace)}
	}
	var usual *job.Job
	if name, _ := cmd.Flags().GetString("job"); name != "" {
		file, err := os.Open(name) //nolint:gosec // the file that the command line names
		if err != nil {
			return fmt.Errorf("the case file: %w", err)
		}
		j, err := casefile.Read(file)
		if err := errors.Join(err, file.Close()); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		usual = &j
	}
	address, _ := cmd.Flags().GetString("listen")
	var lc net.ListenConfig
	l, err := lc.Listen(cmd.Context(), "tcp", address)
	if err != nil {
		return fmt.Errorf("cannot answer on %s: %w; --listen chooses another", address, err)
	}
	fmt.Fprintf(cmd.OutOrStdout(), "A simulated vehicle answers at %s (Ctrl-C stops it)\n", l.Addr())
	return simulated(usual, pace).Serve(cmd.Context(), l)
}
