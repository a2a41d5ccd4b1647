import type { Socket } from "node:dgram";

/** Binds a socket, and resolves once it is bound. From then on, what cannot be sent is lost and says nothing. */
export function bound(socket: Socket, port: number, address?: string): Promise<Socket> {
  return new Promise((resolve, reject) => {
    socket.once("error", reject);
    socket.bind(port, address, () => {
      socket.off("error", reject);
      socket.on("error", () => {});
      resolve(socket);
    });
  });
}
