"""Small loopback services in place of outside ones. They know what is sent to them and nothing
else.
"""
