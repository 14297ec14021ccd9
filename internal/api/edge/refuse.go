package edge

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"
)

// Refuse answers a plain route with the problem of err.
func (e *Edge) Refuse(c *gin.Context, err error) {
	var model *Problem
	if !errors.As(e.problem(err), &model) {
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	LeaveBody(c)
	c.Header("Cache-Control", "no-store")
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(model.Status, model)
}

// LeaveBody keeps a server from reading a body that nobody asked for, before it answers.
func LeaveBody(c *gin.Context) {
	if c.Request.ContentLength != 0 {
		c.Header("Connection", "close")
	}
}
