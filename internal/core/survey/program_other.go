//go:build !unix

package survey

import (
	"os/exec"
	"time"
)

// endWithChildren makes a program end when its context does.
func endWithChildren(cmd *exec.Cmd) { cmd.WaitDelay = time.Second }
