package gate

import (
	"runtime"
	"syscall"
)

// heavy is how many pieces of work are aside at most at a time in a program: two
// lists, two documents that are shown, one that is compared, one that is measured.
const heavy = 6

// How much lower the priority of work aside is than the program's own, and how low it can be (nice).
const (
	lower  = 10
	lowest = 19
)

// Spare lets work that is aside run beside everything else, not in its place. It is
// called once, by main.
func Spare() { runtime.GOMAXPROCS(runtime.NumCPU() + heavy) }

// Aside does what takes long on a thread of its own, of lower priority, so that
// anyone who asks for a page meanwhile is answered first. The thread ends with it.
func Aside(do func()) {
	type failed struct{ what any }
	done := make(chan *failed, 1)
	go func() {
		runtime.LockOSThread() // never unlocked: the thread goes with its priority
		var f *failed
		defer func() {
			if p := recover(); p != nil {
				f = &failed{p}
			}
			done <- f
		}()
		if p, err := syscall.Getpriority(syscall.PRIO_PROCESS, syscall.Gettid()); err == nil { // 20 less the priority
			_ = syscall.Setpriority(syscall.PRIO_PROCESS, syscall.Gettid(), min(20-p+lower, lowest)) // where it may
		}
		do()
	}()
	if f := <-done; f != nil {
		panic(f.what)
	}
}
