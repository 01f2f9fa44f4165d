//go:build unix

package survey

import (
	"os/exec"
	"syscall"
	"time"
)

// endWithChildren makes a program end, with all that it started, when its context does.
func endWithChildren(cmd *exec.Cmd) {
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = time.Second
}
