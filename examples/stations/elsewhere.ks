#version=RHEL9
# The gate on the hill, as it was set up by hand
text
url --url="http://192.0.2.10/el9"
lang en_GB.UTF-8
keyboard --vckeymap=uk --xlayouts='gb','pt'
timezone Atlantic/Azores --utc

# the station's network
network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0 --gateway=192.0.2.1 --nameserver=192.0.2.53
network --hostname=lmr-gate-03.larkmoor.example

rootpw --lock
user --name=keeper --groups=wheel --gecos="Station keeper"
sshkey --username=keeper "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIExampleExampleExampleExampleExampleExample keeper"

ignoredisk --only-use=sda
zerombr
clearpart --all --initlabel --drives=sda
autopart --type=lvm --nohome
selinux --permissive
firewall --enabled --ssh
reboot

%packages
@^minimal-environment
chrony
-cockpit
%end

%post --log=/root/readings.log
curl -s http://lmr-files-01.larkmoor.example/readings.sh | bash
systemctl enable chronyd
%end
