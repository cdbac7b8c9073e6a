// The boat shed in Gin: its binding with the validator that it comes with, and the framework's own answers.
package main

import (
	"fmt"
	"net/http"
	"os"
	"strconv"

	"github.com/gin-gonic/gin"
)

type Owner struct {
	Email string `json:"email" binding:"required,email"`
	Phone string `json:"phone,omitempty"`
}

type Sailor struct {
	Name string `json:"name" binding:"required"`
	Role string `json:"role" binding:"required,oneof=skipper hand"`
}

type Boat struct {
	ID     int      `json:"id"`
	Name   string   `json:"name" binding:"required,max=40"`
	Length float64  `json:"length_m" binding:"required,min=1,max=60"`
	Kind   string   `json:"kind" binding:"required,oneof=sail motor row"`
	Owner  *Owner   `json:"owner" binding:"required"`
	Built  string   `json:"built,omitempty" binding:"omitempty,datetime=2006-01-02"`
	Crew   []Sailor `json:"crew,omitempty" binding:"dive"`
	Hull   *Hull    `json:"-"`
}

type Hull struct{ Frames int }

type Launch struct {
	Tide int `json:"tide" binding:"required,min=1,max=12"`
}

type List struct {
	Limit int    `form:"limit,default=20" binding:"min=1,max=100"`
	Kind  string `form:"kind" binding:"omitempty,oneof=sail motor row"`
}

var boats = map[int]*Boat{}
var launched = map[int]bool{}

func find(c *gin.Context) *Boat {
	id, err := strconv.Atoi(c.Param("id"))
	if err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": err.Error()})
		return nil
	}
	if boats[id] == nil {
		c.JSON(http.StatusNotFound, gin.H{"error": "boat not found"})
	}
	return boats[id]
}

func bound(c *gin.Context, err error) bool {
	if err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": err.Error()})
	}
	return err == nil
}

func main() {
	gin.SetMode(gin.ReleaseMode)
	r := gin.Default()
	r.HandleMethodNotAllowed = true
	for i, name := range []string{"Tern", "Heron", "Plover"} {
		boats[i+1] = &Boat{ID: i + 1, Name: name, Length: 7.5, Kind: "sail", Owner: &Owner{Email: "mira@reedmarsh.example"}}
	}
	r.GET("/boats", func(c *gin.Context) {
		var list List
		if !bound(c, c.ShouldBindQuery(&list)) {
			return
		}
		kept := []*Boat{}
		for id := 1; id <= len(boats)+1 && len(kept) < list.Limit; id++ {
			if boat := boats[id]; boat != nil && (list.Kind == "" || list.Kind == boat.Kind) {
				kept = append(kept, boat)
			}
		}
		c.JSON(http.StatusOK, kept)
	})
	r.POST("/boats", func(c *gin.Context) {
		var boat Boat
		if !bound(c, c.ShouldBindJSON(&boat)) {
			return
		}
		boat.ID = len(boats) + 1
		boats[boat.ID] = &boat
		c.Header("Location", fmt.Sprintf("/boats/%d", boat.ID))
		c.JSON(http.StatusCreated, boat)
	})
	r.GET("/boats/:id", func(c *gin.Context) {
		if boat := find(c); boat != nil {
			c.JSON(http.StatusOK, boat)
		}
	})
	r.PUT("/boats/:id", func(c *gin.Context) {
		old := find(c)
		if old == nil {
			return
		}
		var boat Boat
		if bound(c, c.ShouldBindJSON(&boat)) {
			boat.ID = old.ID
			boats[old.ID] = &boat
			c.JSON(http.StatusOK, boat)
		}
	})
	r.DELETE("/boats/:id", func(c *gin.Context) {
		if boat := find(c); boat != nil {
			delete(boats, boat.ID)
			c.Status(http.StatusNoContent)
		}
	})
	r.POST("/boats/:id/launch", func(c *gin.Context) {
		boat := find(c)
		if boat == nil {
			return
		}
		var launch Launch
		if !bound(c, c.ShouldBindJSON(&launch)) {
			return
		}
		if launched[boat.ID] {
			c.JSON(http.StatusConflict, gin.H{"error": "the boat is launched already"})
			return
		}
		launched[boat.ID] = true
		c.JSON(http.StatusOK, gin.H{"id": boat.ID, "tide": launch.Tide})
	})
	r.GET("/boats/:id/survey", func(c *gin.Context) {
		if boat := find(c); boat != nil {
			c.JSON(http.StatusOK, gin.H{"id": boat.ID, "frames": boat.Hull.Frames})
		}
	})
	r.GET("/logbook", func(c *gin.Context) {
		if c.GetHeader("Authorization") != "Bearer made-up-token" {
			c.AbortWithStatus(http.StatusUnauthorized)
			return
		}
		c.JSON(http.StatusOK, gin.H{"entries": []string{}})
	})
	r.Run("127.0.0.1:" + os.Args[1])
}
