// Package usecase holds the use cases, a room each. None knows another; what they have in common is
// the seam's.
package usecase
