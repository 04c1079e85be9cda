"""Files by their content, who holds each, and the collecting of what nobody holds."""
