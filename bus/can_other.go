//go:build !linux

package bus

import (
	"context"
	"errors"
)

func openCAN(context.Context, string) (Bus, error) {
	return nil, errors.New("SocketCAN exists on Linux only: expected tcp:HOST:PORT")
}
